import tls from 'node:tls';
import type { Handshake } from '../../core/capture/capture';
import { hostOf, originOf } from '../../core/capture/url';
import type { SeenLoad } from './seenLoad';

/** A handshake that took the browser no longer than this beyond its round trips is believed, in ms. */
const BELIEVED_MS = 15;
const MOST_HOSTS = 8;
const TIMES = 2;
const LONGEST_MS = 5000;

/**
 * Makes the TLS handshakes again that took the browser long, apart from it: one that has just begun, or a busy machine,
 * takes up to half a second for what takes its server some ms. What was asked before is kept in `known`; the least counts.
 * @param rttMs round trip of the link
 */
export async function handshakesAgain(
  loads: readonly SeenLoad[],
  rttMs: number,
  known: Map<string, Handshake>,
): Promise<Handshake[]> {
  const slow = new Map<string, SeenLoad>();
  for (const load of loads) {
    const t = load.timing;
    if (!t || !load.address || t.sslStart < 0 || slow.size >= MOST_HOSTS) continue;
    if (t.connectEnd - t.connectStart > 2 * rttMs + BELIEVED_MS) slow.set(originOf(load.url), load);
  }
  await Promise.all(
    [...slow].map(async ([origin, load]) => {
      for (let i = 0; i < TIMES; i++) {
        const made = await handshake(load, origin);
        if (!made) return;
        const was = known.get(origin);
        if (!was || made.connectMs + made.tlsMs < was.connectMs + was.tlsMs) known.set(origin, made);
      }
    }),
  );
  return [...known.values()];
}

/** One handshake as a browser makes it (RFC 9293, 3.5; RFC 8446), whatever the certificate says; undefined when it fails. */
function handshake({ address = '', port, protocol }: SeenLoad, origin: string): Promise<Handshake | undefined> {
  return new Promise((done) => {
    const started = performance.now();
    let connectMs = 0;
    const host = hostOf(origin);
    const socket = tls.connect({
      host: address.replace(/^\[|\]$/g, ''),
      port: port ?? 443,
      ...(/^[\d.]+$|:/.test(host) ? {} : { servername: host }),
      ALPNProtocols: protocol === 'h2' ? ['h2', 'http/1.1'] : ['http/1.1'],
      // Only its time is wanted: nothing is sent, nothing is believed.
      rejectUnauthorized: false,
      timeout: LONGEST_MS,
    });
    const end = (made: Handshake | undefined) => {
      socket.destroy();
      done(made);
    };
    socket.once('connect', () => (connectMs = performance.now() - started));
    socket.once('secureConnect', () => end({ origin, connectMs, tlsMs: performance.now() - started - connectMs }));
    socket.once('timeout', () => end(undefined));
    socket.once('error', () => end(undefined));
  });
}
