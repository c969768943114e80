import { fork, execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { createHash, createPublicKey } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { generate } from 'selfsigned';
import type { Message } from './server';
import type { Files, HostSpec } from './site';

const here = path.dirname(fileURLToPath(import.meta.url));
const WAN = path.join(here, '../../src/engine/replay/rig/wan-up');

type Unnumbered<T> = T extends { readonly id: number } ? Omit<T, 'id'> : never;

/** Keeps a processor busy as long as a process is there: a bench that is killed cannot end its loops. */
const BUSY_WHILE = 'while kill -0 "$0"; do i=0; while [ $i -lt 100000 ]; do i=$((i+1)); done; done';

/** The wide-area link between two network namespaces, with the stand-in servers on its far side. */
export class Rig {
  private server: ChildProcess | undefined;
  private idle: ChildProcess[] = [];
  private calls = 0;
  private up = '';
  /** SHA-256 of the hosts' public key: a browser that is told to trust it keeps their files, as it does not with a faulty certificate. */
  keyHash = '';

  /** Brings the link up as stated; a link that is up already is left alone. Needs root, Linux, iproute2 and a C compiler. */
  async link(rttMs: number, downKbps: number, upKbps: number): Promise<void> {
    const wanted = `${rttMs} ${downKbps} ${upKbps}`;
    if (this.up === wanted) return;
    this.stopServer();
    execFileSync(WAN, [String(rttMs), String(downKbps), String(upKbps)], { stdio: ['ignore', 'ignore', 'inherit'] });
    // A server keeps little unsent, so that it can still choose what goes next.
    execFileSync('ip', ['netns', 'exec', 'kl-far', 'sysctl', '-qw', 'net.ipv4.tcp_notsent_lowat=16384']);
    this.up = wanted;
    const wrapper = path.join(os.tmpdir(), 'keen-lens-far-node');
    fs.writeFileSync(wrapper, `#!/bin/sh\nexec ip netns exec kl-far ${process.execPath} "$@"\n`, { mode: 0o755 });
    this.server = fork(path.join(here, 'server.ts'), {
      execPath: wrapper,
      execArgv: ['--import', 'tsx'],
      serialization: 'advanced',
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    // Idle processors wake late: two loops of the lowest priority keep them awake.
    if (this.idle.length === 0) {
      for (let i = 0; i < 2; i++)
        this.idle.push(spawn('chrt', ['-i', '0', 'sh', '-c', BUSY_WHILE, String(process.pid)], { stdio: 'ignore' }));
    }
  }

  /** Opens the hosts of a page. */
  async hosts(hosts: readonly HostSpec[]): Promise<void> {
    const made = await generate([{ name: 'commonName', value: 'fernhollow.example' }], {
      keySize: 2048,
      algorithm: 'sha256',
      extensions: [{ name: 'subjectAltName', altNames: hosts.map((h) => ({ type: 2 as const, value: h.name })) }],
    });
    const key = createPublicKey(made.cert).export({ type: 'spki', format: 'der' });
    this.keyHash = createHash('sha256').update(key).digest('base64');
    await this.tell({ kind: 'hosts', hosts, tls: { key: made.private, cert: made.cert } });
  }

  /** Sets what the hosts answer. */
  files(files: Files): Promise<void> {
    return this.tell({ kind: 'files', files: [...files] });
  }

  /** Ends all connections. */
  hangUp(): Promise<void> {
    return this.tell({ kind: 'hangup' });
  }

  private tell(message: Unnumbered<Message>): Promise<void> {
    const id = ++this.calls;
    const { server } = this;
    if (!server) throw new Error('The link is not up.');
    return new Promise((done, fail) => {
      const hear = (answer: { id: number; error?: string }) => {
        if (answer.id !== id) return;
        server.off('message', hear);
        server.off('exit', died);
        if (answer.error) fail(new Error(answer.error));
        else done();
      };
      const died = () => fail(new Error('The stand-in server has ended.'));
      server.on('message', hear);
      server.once('exit', died);
      server.send({ ...message, id });
    });
  }

  private stopServer(): void {
    this.server?.kill('SIGKILL');
    this.server = undefined;
  }

  stop(): void {
    this.stopServer();
    for (const p of this.idle) p.kill('SIGKILL');
    this.idle = [];
    if (this.up) execFileSync(WAN, ['stop'], { stdio: 'ignore' });
    this.up = '';
  }
}

/** Runs something on a rig of its own, which is taken down in every case. */
export async function withRig(run: (rig: Rig) => Promise<void>): Promise<void> {
  const rig = new Rig();
  const stop = () => {
    rig.stop();
    process.exit(130);
  };
  process.once('SIGINT', stop);
  process.once('SIGTERM', stop);
  try {
    await run(rig);
  } finally {
    rig.stop();
  }
}

/** A program that starts Chromium on the near side of the link. */
export function nearChromium(chromium: string): string {
  const file = path.join(os.tmpdir(), 'keen-lens-near-chromium');
  fs.writeFileSync(file, `#!/bin/sh\nexec ip netns exec kl-near ${chromium} "$@"\n`, { mode: 0o755 });
  return file;
}
