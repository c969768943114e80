import { execFile, execFileSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';
import { projectRoot } from '../store/store';
import type { ReplayLink } from './messages';

const run = promisify(execFile);

/** Hosts that the link has addresses for. */
const MOST_HOSTS = 250;

/**
 * A link between two network namespaces of this machine, with a real delay, rate and queue (`rig/wan.c`): real TCP runs
 * over it. One at a time, under a name of its own.
 */
export class NamespaceLink {
  private constructor(
    private readonly name: string,
    private readonly folder: string,
  ) {}

  /** Why there can be no such link here; undefined where there can. */
  static missing(): string | undefined {
    if (process.platform !== 'linux') return 'network namespaces need Linux';
    if (process.getuid?.() !== 0) return 'network namespaces need root';
    if (!fs.existsSync('/dev/net/tun')) return 'this machine has no /dev/net/tun';
    const folders = [...(process.env.PATH ?? '').split(path.delimiter), '/usr/sbin', '/sbin'];
    const missing = ['ip', 'cc'].filter((p) => !folders.some((f) => fs.existsSync(path.join(f, p))));
    return missing.length > 0 ? `this machine has no ${missing.join(' and no ')}` : undefined;
  }

  /** Brings a link up for so many hosts. @throws Error when the system does not allow it */
  static async start(link: ReplayLink, hosts: number): Promise<NamespaceLink> {
    const made = new NamespaceLink('klp', fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-link-')));
    try {
      await made.wanUp(hosts, String(link.rttMs), String(link.downKbps), String(link.upKbps));
      // A server keeps little unsent, so that it can still choose what goes next.
      await run('ip', ['netns', 'exec', `${made.name}-far`, 'sysctl', '-qw', 'net.ipv4.tcp_notsent_lowat=16384']);
    } catch (error) {
      made.stop();
      throw error;
    }
    return made;
  }

  /** Addresses for hosts, one each as far as they go. */
  addresses(hosts: readonly string[]): Record<string, string> {
    return Object.fromEntries(hosts.map((host, i) => [host, `10.77.1.${(i % MOST_HOSTS) + 1}`]));
  }

  /** A program that starts another one on the near or on the far side. */
  on(side: 'near' | 'far', program: string): string {
    const file = path.join(this.folder, `${side}-${path.basename(program)}`);
    fs.writeFileSync(file, `#!/bin/sh\nexec ip netns exec ${this.name}-${side} ${program} "$@"\n`, { mode: 0o755 });
    return file;
  }

  /** Takes the link down. */
  stop(): void {
    try {
      execFileSync(this.script, ['stop'], { stdio: 'ignore', env: this.env });
    } catch {
      // Nothing is up.
    }
    fs.rmSync(this.folder, { recursive: true, force: true });
  }

  /** What it compiles is run as root: it lies in a folder that nobody else can write to. */
  private get env(): NodeJS.ProcessEnv {
    return { ...process.env, KL_LINK: this.name, TMPDIR: this.folder };
  }

  private readonly script = path.join(projectRoot(), 'src/engine/replay/rig/wan-up');

  private async wanUp(hosts: number, ...link: string[]): Promise<void> {
    const count = String(Math.min(MOST_HOSTS, Math.max(1, hosts)));
    await run(this.script, link, { env: { ...this.env, KL_HOSTS: count }, timeout: 60_000 });
  }
}
