import { setMaxListeners } from 'node:events';
import net from 'node:net';
import PQueue from 'p-queue';
import { hostOf } from '../../core/capture/url';
import { judgeCertificate, judgeHsts, type HstsPolicy, type JudgedCertificate } from '../../core/site/certificates';
import { judgeEntrances, type Entrance, type Probe, type ProbeTarget } from '../../core/site/entrances';
import { ownOrigins } from '../../core/site/ownOrigin';
import type { SweepSettings } from '../../core/site/settings';
import { CrawlClient } from '../crawl/client';
import type { ConnectOptions } from '../crawl/connector';
import { HostGate } from '../crawl/hostGate';
import { RobotsOfHosts } from '../crawl/robotsOfHosts';
import { Guard } from '../net/guard';
import { bareHost } from '../net/hostMap';
import { seeCertificate } from './certificates';
import { followProbe } from './followProbe';

/** Entrances and hosts that are asked at a time. */
const AT_ONCE = 16;
/** Longest wait for one answer of a probe, in ms. */
export const MAX_PROBE_MS = 15_000;

/** What a robots.txt says at its secure address. */
export interface RobotsSeen {
  readonly url: string;
  /** Why it could not be had: a host that does not answer, a status of 500 or above. */
  readonly fault?: string;
  /** Whether it lets crawlers in at the home page. */
  readonly allowsHome: boolean;
  /** Absolute addresses of the sitemaps that it names. */
  readonly sitemaps: readonly string[];
}

/** What probes brought back. */
export interface ProbeReport {
  /** ISO time of the start. */
  readonly askedAt: string;
  readonly entrances: readonly Entrance[];
  readonly certificates: readonly JudgedCertificate[];
  readonly hsts: readonly HstsPolicy[];
  /** Of the home host; missing in probes of before 2026-11-29, and where no way in is secure. */
  readonly robots?: RobotsSeen;
}

export interface ProbeOptions {
  readonly settings: SweepSettings;
  readonly ownPorts?: readonly number[];
  readonly roots?: readonly string[];
  /** Where pages lead by script, as recordings have shown. */
  readonly byScript?: ReadonlyMap<string, string>;
  readonly signal: AbortSignal;
  readonly onProgress?: (done: number, total: number, now: string) => void;
}

/**
 * Asks for every target over IPv4 and IPv6 where its host has addresses, looks at the certificate of every https host
 * among the targets, and judges what came back.
 * @throws the reason of the signal
 */
export async function probeEntrances(targets: readonly ProbeTarget[], options: ProbeOptions): Promise<ProbeReport> {
  const { settings, signal } = options;
  // Every open request listens.
  setMaxListeners(0, signal);
  const askedAt = new Date();
  const connect: SweepSettings & Pick<ConnectOptions, 'ownPorts' | 'roots'> = {
    ...settings,
    ownPorts: options.ownPorts,
    roots: options.roots,
  };
  const own = ownOrigins([settings.home]);
  const client = (family?: 4 | 6) => new CrawlClient({ ...connect, family }, own, MAX_PROBE_MS);
  const clients = { IPv4: client(4), IPv6: client(6), any: client() };
  const gate = new HostGate(settings);
  const guard = new Guard(connect);
  const hsts = new Map<string, string | undefined>();
  const run = <T>(url: string, task: () => Promise<T>) => gate.run(url, task);
  try {
    const families = new Map<string, Promise<Probe['family'][]>>();
    const asks = (
      await Promise.all(
        targets.map(async (t) => {
          const { host, hostname, port, protocol } = new URL(t.from);
          const known =
            families.get(host) ?? familiesOf(guard, hostname, Number(port) || (protocol === 'https:' ? 443 : 80));
          families.set(host, known);
          return (await known).map((family) => ({ target: t, family }));
        }),
      )
    ).flat();
    const secure = [...new Set(targets.filter((t) => t.from.startsWith('https:')).map((t) => new URL(t.from).host))];
    const total = asks.length + secure.length;
    let done = 0;
    const step = (now: string) => options.onProgress?.(++done, total, now);
    // Few at a time over all hosts: times are shown, and a crowd of handshakes would lengthen them.
    const queue = new PQueue({ concurrency: AT_ONCE });
    const probes = await queue.addAll(
      asks.map(({ target, family }) => async () => {
        const followed = await followProbe(
          { first: clients[family], next: clients.any },
          target.from,
          family,
          run,
          signal,
          options.byScript,
        );
        for (const [host, header] of followed.hsts) if (!hsts.has(host)) hsts.set(host, header);
        if (followed.pause) gate.pause(followed.pause.url, followed.pause.seconds * 1000);
        step(target.from);
        return followed.probe;
      }),
    );
    const certificates = await queue.addAll(
      secure.map((host) => async () => {
        const { hostname, port } = new URL(`https://${host}`);
        const seen = await seeCertificate(bareHost(hostname), Number(port) || 443, connect, signal).catch(
          () => undefined,
        );
        step(host);
        return seen ? [judgeCertificate(seen, askedAt)] : [];
      }),
    );
    const home = `https://${new URL(settings.home).host}/`;
    const robots = secure.includes(new URL(home).host) ? await seeRobots(clients.any, home, run, signal) : undefined;
    signal.throwIfAborted();
    const asked = new Set(targets.map((t) => hostOf(t.from)));
    return {
      askedAt: askedAt.toISOString(),
      entrances: judgeEntrances(targets, probes),
      certificates: certificates.flat(),
      hsts: [...hsts].filter(([host]) => asked.has(host)).map(([host, header]) => judgeHsts(host, header)),
      robots,
    };
  } finally {
    gate.close();
    await Promise.all(Object.values(clients).map((c) => c.close()));
  }
}

async function seeRobots(
  client: CrawlClient,
  home: string,
  run: <T>(url: string, task: () => Promise<T>) => Promise<T>,
  signal: AbortSignal,
): Promise<RobotsSeen> {
  let fault: string | undefined;
  const known = new RobotsOfHosts(client, signal, (_, what) => (fault = what));
  const robots = await run(home, () => known.of(home));
  return { url: `${home}robots.txt`, fault, allowsHome: robots.allows(home), sitemaps: robots.sitemaps };
}

/** The address families of a host; one of them where the lookup fails, so that the fault is asked for and said. */
async function familiesOf(guard: Guard, host: string, port: number): Promise<Probe['family'][]> {
  try {
    const { addresses } = await guard.resolve(host, port);
    const kinds = new Set(addresses.map((a) => (net.isIP(a) === 6 ? ('IPv6' as const) : ('IPv4' as const))));
    return kinds.size > 0 ? [...kinds].sort() : ['IPv4'];
  } catch {
    return ['IPv4'];
  }
}
