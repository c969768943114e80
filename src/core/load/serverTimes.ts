import { originOf } from '../capture/url';
import type { Page } from '../source/page';

/** Least handshake time of each origin beyond its round trips (one for TCP, one for TLS 1.3). */
export function setupTimes(page: Page): Map<string, number> {
  const out = new Map<string, number>();
  const { rttMs, stated } = page.capture.conditions;
  if (!stated) return out;
  for (const load of page.capture.loads) {
    const { connectMs, tlsMs } = load.timings;
    if (connectMs === undefined) continue;
    const extra = Math.max(0, connectMs - rttMs) + Math.max(0, (tlsMs ?? 0) - rttMs);
    const origin = originOf(load.url);
    out.set(origin, Math.min(200, extra, out.get(origin) ?? Infinity));
  }
  return out;
}

/** A wait longer than the host's shortest by less than this is taken for queueing behind other answers. */
const QUEUEING_MS = 80;

/**
 * Think time of the server for each load: its wait less the round trip. Answers of one host that are under way together
 * wait for each other; what the recording shows beyond the host's shortest wait is mostly that, and the re-enactment
 * makes such queueing itself.
 */
export function serverWaits(page: Page): number[] {
  const { loads, conditions, documentIndex } = page.capture;
  const own = loads.map((l) => Math.max(0, l.timings.waitMs - conditions.rttMs));
  const least = new Map<string, number>();
  loads.forEach((l, i) => {
    if (i === documentIndex || l.redirectTo || l.mixedBlocked) return;
    const origin = originOf(l.url);
    least.set(origin, Math.min(own[i] as number, least.get(origin) ?? Infinity));
  });
  return loads.map((l, i) => {
    const ms = own[i] as number;
    const floor = least.get(originOf(l.url)) ?? ms;
    return i !== documentIndex && ms > floor && ms - floor < QUEUEING_MS ? floor + 0.15 * (ms - floor) : ms;
  });
}
