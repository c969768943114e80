import type { Load, RunTimes } from '../capture/capture';
import { originOf } from '../capture/url';
import { quantile } from './range';
import type { Page } from '../source/page';

/** Runs of one recording whose times lie no further apart than this were held up by the recording machine, in ms. */
const HELD_UP_MS = 300;

/**
 * One time of several runs: the least, as what holds a run up only adds; where they lie further apart than that
 * explains, the server varies, and the middle one stands for it.
 */
function ofRuns(load: Load, pick: (times: RunTimes) => number | undefined): number | undefined {
  const times = [load.timings, ...(load.otherRuns ?? [])].flatMap((t) => pick(t) ?? []).sort((a, b) => a - b);
  const [least] = times;
  if (least === undefined) return undefined;
  return (times.at(-1) ?? least) - least <= HELD_UP_MS ? least : quantile(times, 0.5);
}

const leastWait = (load: Load): number =>
  Math.min(...[load.timings, ...(load.otherRuns ?? [])].map((t) => t.waitMs ?? Infinity));

/** Least handshake time of each origin beyond its round trips (one for TCP, one for TLS 1.3), by the browser or apart from it. */
export function setupTimes(page: Page): Map<string, number> {
  const out = new Map<string, number>();
  const { rttMs, stated } = page.capture.conditions;
  if (!stated) return out;
  const apart = new Map((page.capture.observations?.handshakes ?? []).map((h) => [h.origin, h]));
  const beyond = (tcpMs: number, tlsMs: number) => Math.max(0, tcpMs - rttMs) + Math.max(0, tlsMs - rttMs);
  for (const load of page.capture.loads) {
    if (load.timings.connectMs === undefined) continue;
    const connectMs = ofRuns(load, (t) => t.connectMs) ?? load.timings.connectMs;
    const tlsMs = ofRuns(load, (t) => t.tlsMs);
    const origin = originOf(load.url);
    const again = apart.get(origin);
    const extra = Math.min(beyond(connectMs, tlsMs ?? 0), again ? beyond(again.connectMs, again.tlsMs) : Infinity);
    out.set(origin, Math.min(200, extra, out.get(origin) ?? Infinity));
  }
  return out;
}

/**
 * A wait longer than the host's shortest by less than this is taken for queueing behind other answers: that of a file
 * which is only read sooner than that of an answer which may be worked out.
 */
const QUEUEING_MS = { file: 150, other: 80 };
/** By so much the waits for files that a server sends alike differ, in ms. */
const NOISE_MS = 10;
const FILES: ReadonlySet<Load['kind']> = new Set(['image', 'font', 'style', 'script', 'media']);

/**
 * Think time of the server for each load: its wait minus the round trip. Responses of one host that overlap
 * wait for each other; what the recording shows beyond the host's shortest wait is mostly that, and the simulation
 * makes such queueing itself.
 */
export function serverWaits(page: Page): number[] {
  const { loads, conditions, documentIndex } = page.capture;
  const own = loads.map((l) => Math.max(0, (ofRuns(l, (t) => t.waitMs) ?? 0) - conditions.rttMs));
  const least = new Map<string, number>();
  loads.forEach((l, i) => {
    if (i === documentIndex || l.redirectTo || l.mixedBlocked || l.fromEarlyHints) return;
    const origin = originOf(l.url);
    least.set(origin, Math.min(own[i] as number, least.get(origin) ?? Infinity));
  });
  const waits = loads.map((l, i) => {
    const ms = own[i] as number;
    const floor = least.get(originOf(l.url)) ?? ms;
    // How long it took when it was asked for has not been seen.
    if (l.fromEarlyHints) return floor;
    if (i === documentIndex || ms <= floor) return ms;
    const isFile = FILES.has(l.kind);
    // A file that came at once in any of the runs is not worked out: what held it up in the others was something else.
    const soonest = isFile ? Math.max(0, leastWait(l) - conditions.rttMs) : ms;
    return soonest - floor < (isFile ? QUEUEING_MS.file : QUEUEING_MS.other) ? floor : ms;
  });
  const files = loads.filter((l) => FILES.has(l.kind) && l.index !== documentIndex);
  for (const origin of new Set(files.map((l) => originOf(l.url))))
    evenOut(
      files.filter((l) => originOf(l.url) === origin),
      waits,
    );
  return waits;
}

/** Waits that differ by no more than clocks do are the same: else one of two files alike would always come first. */
function evenOut(files: readonly Load[], waits: number[]): void {
  const wait = (l: Load) => waits[l.index] as number;
  let first = -Infinity;
  for (const load of [...files].sort((a, b) => wait(a) - wait(b))) {
    if (wait(load) - first > NOISE_MS) first = wait(load);
    waits[load.index] = first;
  }
}
