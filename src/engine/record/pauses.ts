import { endOfWork, type Pause, type Work } from '../../core/capture/capture';
import type { SeenLoad } from './seenLoad';

/** A shorter rest of a body's bytes is noise of a machine; a round trip more is a window that was empty (RFC 9293, 3.8.6). */
export const LEAST_MS = 80;
const ROUND_TRIPS = 2;
/** Between the headers and the first byte of a body a browser makes the page ready for it, beside its main thread. */
const READYING_MS = 300;
/** Shares of one pause in two runs differ by what a server's buffers hold. */
const SAME_SHARE = 0.05;
/** Of one answer at most: those that a page would notice. */
const MOST = 8;

/**
 * Where a server paused while it sent a body: stretches in which no byte came and the browser had time to take one.
 * @param msOf ms of the page's own clock for a time of the load
 * @param rttMs round trip of the link that was recorded over
 */
export function pausesOf(
  load: SeenLoad,
  work: readonly Work[],
  rttMs: number,
  msOf: (seconds: number) => number,
): readonly Pause[] | undefined {
  const { timing, rests, decodedBytes } = load;
  if (!timing || decodedBytes <= 0) return undefined;
  const firstMs = msOf(timing.requestTime) + timing.receiveHeadersEnd;
  const out: Pause[] = [];
  for (const rest of rests) {
    const [from, to] = [msOf(rest.fromS), msOf(rest.toS)];
    const least = (rest.before === 0 ? READYING_MS : LEAST_MS) + ROUND_TRIPS * rttMs;
    if (to - from - busyMs(work, from, to) < least) continue;
    const ms = Math.round(to - firstMs);
    if (ms > 0 && out.length < MOST) out.push({ share: rest.before / decodedBytes, ms });
  }
  return out.length > 0 ? out : undefined;
}

/** Time within a stretch in which the main thread worked. */
function busyMs(work: readonly Work[], from: number, to: number): number {
  const parts = work
    .map((w) => [Math.max(from, w.startMs), Math.min(to, endOfWork(w))] as const)
    .filter(([a, b]) => b > a)
    .sort(([a], [b]) => a - b);
  let ms = 0;
  let at = from;
  for (const [a, b] of parts) {
    if (b <= at) continue;
    ms += b - Math.max(a, at);
    at = b;
  }
  return ms;
}

/** Pauses of one run that all other runs of a load had as well, each as short as in the shortest. */
export function pausesInAll(
  own: readonly Pause[] | undefined,
  others: readonly (readonly Pause[] | undefined)[],
): readonly Pause[] | undefined {
  const kept = (own ?? []).flatMap((pause) => {
    const same = others.map((list) => list?.find((p) => Math.abs(p.share - pause.share) <= SAME_SHARE));
    return same.every((p) => p !== undefined) ? [{ ...pause, ms: Math.min(pause.ms, ...same.map((p) => p.ms)) }] : [];
  });
  return kept.length > 0 ? kept : undefined;
}
