import net from 'node:net';
import { hostOf, originOf } from '../../core/capture/url';
import type { ServerOrder } from '../../core/capture/capture';
import type { SeenLoad } from './seenLoad';
import { servesByUrgency } from './serverTurns';

/** Hosts beyond these are not asked: they send too little to matter. */
const MOST_HOSTS = 8;
const FILES: ReadonlySet<string> = new Set(['style', 'script', 'image', 'font']);

/**
 * Asks the HTTP/2 servers of a recording whether they send first what is urgent, at the addresses at which the browser
 * reached them. What was asked before is kept in `known`.
 */
export async function askServers(
  loads: readonly SeenLoad[],
  acceptAnyCertificate: boolean,
  known: Map<string, ServerOrder>,
): Promise<ServerOrder[]> {
  const byOrigin = new Map<string, SeenLoad[]>();
  for (const load of loads) {
    if (load.protocol !== 'h2' || load.status !== 200 || load.method !== 'GET' || !load.address) continue;
    // Files only: to ask for a page again may set something off.
    if (!FILES.has(load.kind)) continue;
    const origin = originOf(load.url);
    byOrigin.set(origin, [...(byOrigin.get(origin) ?? []), load]);
  }
  const hosts = [...byOrigin].sort((a, b) => weight(b[1]) - weight(a[1])).slice(0, MOST_HOSTS);
  await Promise.all(
    hosts.map(async ([origin, own]) => {
      const address = own[0]?.address;
      if (known.has(origin) || !address) return;
      const url = new URL(origin);
      const byUrgency = await servesByUrgency(
        {
          host: hostOf(origin),
          address: address.replace(/^\[|\]$/g, ''),
          port: own[0]?.port ?? (Number(url.port) || 443),
          acceptAnyCertificate,
        },
        own.map((l) => ({ path: pathOf(l.url), bytes: l.wireBytes })),
      );
      if (byUrgency !== undefined) known.set(origin, { origin, byUrgency });
    }),
  );
  return [...known.values()];
}

const weight = (loads: readonly SeenLoad[]) => loads.reduce((sum, l) => sum + l.wireBytes, 0);

const pathOf = (url: string) => {
  const { pathname, search } = new URL(url);
  return pathname + search;
};

/** Shortest of three TCP handshakes with a server, in ms: one round trip (RFC 9293, 3.5); undefined when it does not answer. */
export async function roundTripTo(address: string, port: number): Promise<number | undefined> {
  let least: number | undefined;
  for (let i = 0; i < 3; i++) {
    const ms = await handshake(address, port);
    if (ms === undefined) return least;
    least = Math.min(ms, least ?? Infinity);
  }
  return least;
}

function handshake(address: string, port: number): Promise<number | undefined> {
  return new Promise((done) => {
    const started = performance.now();
    const socket = net.connect({ host: address, port, timeout: 3000 });
    const end = (ms: number | undefined) => {
      socket.destroy();
      done(ms);
    };
    socket.once('connect', () => end(performance.now() - started));
    socket.once('timeout', () => end(undefined));
    socket.once('error', () => end(undefined));
  });
}
