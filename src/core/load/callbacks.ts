import { endOfWork, type Capture, type Load, type Work } from '../capture/capture';
import type { ScriptDraft } from './drafts';
import type { Trigger } from './graph';

/** Work of scripts after their first run, as one task: a handler, a timer, what follows an answer. */
export interface Callback {
  /** As recorded, in ms since the navigation. */
  readonly startMs: number;
  readonly endMs: number;
  /** On a processor of factor 1. */
  readonly runMs: number;
  readonly after: Trigger;
  /** The script whose code it mostly is; -1 where the recording does not say. */
  readonly of: number;
}

/** Work that lies so close together is one task. */
const TOGETHER_MS = 3;
/** Tasks shorter than this matter only when something hangs on them. */
const WORTH_MS = 1.5;
/** Nothing is built in less. */
const BUILDS_MS = 0.3;
const MOST = 60;
/** A request comes so soon after the task that asks for it. */
const ASKED_WITHIN_MS = 8;
/** An event's handlers start so close to its time stamp. */
const EVENT_MS = 6;
/** An answer is handled within this time after it is in. */
const HANDLED_MS = 40;

interface Task {
  startMs: number;
  endMs: number;
  ms: number;
  urls: Map<string, number>;
}

/**
 * What scripts did later, with what set it off: the recording shows when each task began, and what had just happened
 * (HTML, 8.1.7.3: events, timers and answers queue tasks). Tasks that only repeat, as animations do, end with the page's
 * own milestones.
 */
export function listCallbacks(capture: Capture, scripts: readonly ScriptDraft[]): Callback[] {
  const work = capture.observations?.work;
  if (!work) return [];
  const factor = Math.max(0.1, capture.conditions.cpuFactor);
  const { fcpMs = 0, lcpMs = 0, loadMs = 0 } = capture.measured;
  const asked = capture.loads.filter((l) => l.initiator?.type === 'script' || l.initiator?.type === 'other');
  const until = Math.max(fcpMs, lcpMs, loadMs, ...asked.map((l) => l.startMs));
  const tasks = tasksOf(work.filter((w) => w.kind === 'script' && w.phase === 'later' && w.startMs <= until));
  const before = (ms: number) => tasks.filter((t) => t.endMs <= ms && t.ms >= BUILDS_MS).at(-1);
  const last = new Set([before(fcpMs), before(lcpMs)]);
  const kept = tasks
    .filter((t) => t.ms >= WORTH_MS || last.has(t) || asked.some((l) => asks(t, l)))
    .sort((a, b) => b.ms - a.ms)
    .slice(0, MOST)
    .sort((a, b) => a.startMs - b.startMs);
  return kept.flatMap((t) => {
    const after = triggerOf(t.startMs, capture, scripts);
    if (!after) return [];
    return [{ startMs: t.startMs, endMs: t.endMs, runMs: t.ms / factor, after, of: ownerOf(t, scripts) }];
  });
}

/** The callback that asked for a load: the one that was running, or had just ended, when the request went out; -1 for none. */
export function callbackThatAsked(callbacks: readonly Callback[], load: Load): number {
  let found = -1;
  callbacks.forEach((c, i) => {
    if (asks(c, load)) found = i;
  });
  return found;
}

const asks = (task: { readonly startMs: number; readonly endMs: number }, load: Load) =>
  load.startMs >= task.startMs - 0.5 && load.startMs <= task.endMs + ASKED_WITHIN_MS;

function tasksOf(work: readonly Work[]): Task[] {
  const out: Task[] = [];
  for (const w of work) {
    const last = out.at(-1);
    const endMs = endOfWork(w);
    if (last && w.startMs - last.endMs <= TOGETHER_MS) {
      last.endMs = Math.max(last.endMs, endMs);
      last.ms += w.durationMs;
      if (w.url) last.urls.set(w.url, (last.urls.get(w.url) ?? 0) + w.durationMs);
    } else {
      const urls = new Map(w.url ? [[w.url, w.durationMs]] : []);
      out.push({ startMs: w.startMs, endMs, ms: w.durationMs, urls });
    }
  }
  return out;
}

function ownerOf(task: Task, scripts: readonly ScriptDraft[]): number {
  const url = [...task.urls].sort((a, b) => b[1] - a[1])[0]?.[0];
  return url === undefined ? -1 : scripts.findIndex((s) => s.fetch >= 0 && s.url === url);
}

/** What had just happened when a task began; a timer where nothing had. */
function triggerOf(startMs: number, capture: Capture, scripts: readonly ScriptDraft[]): Trigger | undefined {
  const { dclMs, loadMs } = capture.measured;
  const near = (ms: number | undefined): ms is number => ms !== undefined && Math.abs(startMs - ms) <= EVENT_MS;
  if (near(loadMs)) return { by: 'event', event: 'load', delayMs: 0 };
  if (near(dclMs)) return { by: 'event', event: 'dcl', delayMs: 0 };
  const answer = latest(
    capture.loads.filter((l) => l.kind === 'data' && !l.redirectTo),
    (l) => l.endMs,
    startMs + 1,
  );
  if (answer && startMs - answer.endMs <= HANDLED_MS) return { by: 'fetch', fetch: answer.index, delayMs: 0 };
  const script = latest(scripts, (s) => s.endMs ?? Infinity, startMs + 1);
  const scriptMs = script?.endMs ?? -Infinity;
  const eventMs =
    loadMs !== undefined && startMs > loadMs ? loadMs : dclMs !== undefined && startMs > dclMs ? dclMs : -Infinity;
  if (script && scriptMs >= eventMs)
    return { by: 'script', script: scripts.indexOf(script), delayMs: timer(startMs - scriptMs) };
  if (eventMs > -Infinity) {
    const event = eventMs === loadMs ? 'load' : 'dcl';
    return { by: 'event', event, delayMs: timer(startMs - eventMs) };
  }
  // Before any script of the page: the browser's own, or the recorder's.
  return undefined;
}

/** What comes within a few ms is a task of its own, but no timer. */
const timer = (ms: number) => (ms <= EVENT_MS ? 0 : ms);

function latest<T>(list: readonly T[], at: (one: T) => number, until: number): T | undefined {
  let found: T | undefined;
  for (const one of list) if (at(one) <= until && (!found || at(one) > at(found))) found = one;
  return found;
}
