import { fork, type ChildProcess } from 'node:child_process';
import { createHash, createPublicKey } from 'node:crypto';
import { replayModule } from '../workers/codeFile';
import { hostInAddress } from '../net/hostMap';
import type { Answer, KeyAndCertificate, Reply, ReplayHost, ReplayLink, ReplayReport, Told } from './messages';

/** How the servers of a replay are reached. */
export type ReplayWay =
  | { readonly kind: 'userspace'; readonly link: ReplayLink; readonly lookups: boolean }
  | {
      readonly kind: 'namespaces';
      readonly addresses: Readonly<Record<string, string>>;
      /** A program that starts Node.js on the far side of the link. */
      readonly node: string;
    };

/** The process with the servers of a replay. */
export class ReplayChild {
  private calls = 0;
  /** Where each server is to be reached, `HOST[:PORT]` to `ADDRESS[:PORT]`. */
  places: Readonly<Record<string, string>> = {};

  private constructor(
    private readonly child: ChildProcess,
    /** SHA-256 of the hosts' public key, in base64. */
    readonly keyHash: string,
  ) {}

  /** Starts the servers. @throws Error when they do not start */
  static async start(hosts: readonly ReplayHost[], way: ReplayWay): Promise<ReplayChild> {
    const keys = await keysFor(hosts.map((h) => h.host));
    const { filename, execArgv } = replayModule();
    const child = fork(filename, {
      execArgv,
      execPath: way.kind === 'namespaces' ? way.node : process.execPath,
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
    const key = createPublicKey(keys.cert).export({ type: 'spki', format: 'der' });
    const made = new ReplayChild(child, createHash('sha256').update(key).digest('base64'));
    const over = way.kind === 'namespaces' ? { addresses: way.addresses } : { link: way.link, lookups: way.lookups };
    try {
      const reply = await made.tell({ kind: 'start', hosts, keys, over });
      made.places = reply.places ?? (way.kind === 'namespaces' ? byAddress(way.addresses) : {});
    } catch (error) {
      made.stop();
      throw error;
    }
    return made;
  }

  /** Sets what the hosts answer. */
  async answer(answers: readonly Answer[]): Promise<void> {
    await this.tell({ kind: 'answers', answers });
  }

  /** Ends all connections and forgets what was asked. */
  async hangUp(): Promise<void> {
    await this.tell({ kind: 'hangup' });
  }

  /** What was asked since the last hang-up. */
  async report(): Promise<ReplayReport> {
    return (await this.tell({ kind: 'report' })).report as ReplayReport;
  }

  stop(): void {
    this.child.kill('SIGKILL');
  }

  private tell(told: Told): Promise<Reply> {
    const id = ++this.calls;
    const { child } = this;
    return new Promise((done, fail) => {
      const end = () => {
        child.off('message', hear);
        child.off('exit', died);
      };
      const hear = (reply: Reply) => {
        if (reply.id !== id) return;
        end();
        if (reply.error) fail(new Error(reply.error));
        else done(reply);
      };
      const died = () => {
        end();
        fail(new Error('The replay ended by itself.'));
      };
      child.on('message', hear);
      child.once('exit', died);
      child.send({ ...told, id });
    });
  }
}

async function keysFor(names: readonly string[]): Promise<KeyAndCertificate> {
  // Read when a replay starts: no screen waits for it.
  const { generate } = await import('selfsigned');
  const made = await generate([{ name: 'commonName', value: names[0] ?? 'replay' }], {
    keySize: 2048,
    algorithm: 'sha256',
    extensions: [
      { name: 'subjectAltName', altNames: [...new Set(names)].map((value) => ({ type: 2 as const, value })) },
    ],
  });
  return { key: made.private, cert: made.cert };
}

/** Addresses of hosts, these as they stand in addresses. */
const byAddress = (addresses: Readonly<Record<string, string>>): Record<string, string> =>
  Object.fromEntries(Object.entries(addresses).map(([host, to]) => [hostInAddress(host), to]));
