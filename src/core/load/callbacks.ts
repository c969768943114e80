import { endOfWork, type Capture, type Load, type Timer, type Work } from '../capture/capture';
import { scriptNamed, type ScriptDraft } from './drafts';
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
/** Time stamps of events are that exact: a timer was not set by what came later. */
const STAMP_MS = 0.5;
/** An answer is handled within this time after it is in. */
const HANDLED_MS = 40;

interface Task {
  startMs: number;
  endMs: number;
  ms: number;
  urls: Map<string, number>;
  timer?: Timer;
}

/**
 * What scripts did later, with what set it off: the recording shows when each task began, which timer it had waited for,
 * or what had just happened (HTML, 8.1.7.3: events, timers and answers queue tasks). Tasks that only repeat, as animations
 * do, end with the page's own milestones.
 */
export function listCallbacks(capture: Capture, scripts: readonly ScriptDraft[]): Callback[] {
  const work = capture.observations?.work;
  if (!work) return [];
  const factor = Math.max(0.1, capture.conditions.cpuFactor);
  const { fcpMs = 0, lcpMs = 0, loadMs = 0, dclMs = 0 } = capture.measured;
  const asked = capture.loads.filter((l) => l.initiator?.type === 'script' || l.initiator?.type === 'other');
  const until = Math.max(fcpMs, lcpMs, loadMs, ...asked.map((l) => l.startMs));
  const tasks = tasksOf(
    work.filter((w) => w.kind === 'script' && w.phase === 'later' && w.startMs <= until),
    [dclMs, loadMs],
  );
  const before = (ms: number) => tasks.filter((t) => t.endMs <= ms && t.ms >= BUILDS_MS).at(-1);
  const last = new Set([before(fcpMs), before(lcpMs)]);
  const kept = new Set(
    tasks
      .filter((t) => t.ms >= WORTH_MS || last.has(t) || asked.some((l) => asks(t, l)))
      .sort((a, b) => b.ms - a.ms)
      .slice(0, MOST),
  );
  const out: Callback[] = [];
  const numbers = new Map<Task, number>();
  for (const t of tasks) {
    const after = kept.has(t) ? triggerOf(t, { tasks, numbers, capture, scripts }) : undefined;
    if (!after) continue;
    numbers.set(t, scripts.length + out.length);
    out.push({ startMs: t.startMs, endMs: t.endMs, runMs: t.ms / factor, after, of: ownerOf(t, scripts) });
  }
  return out;
}

interface Recorded {
  /** In the order of time. */
  readonly tasks: readonly Task[];
  /** Numbers that callbacks have among the scripts of the graph. */
  readonly numbers: ReadonlyMap<Task, number>;
  readonly capture: Capture;
  readonly scripts: readonly ScriptDraft[];
}

/** What set a task off: what set its timer, and the time after that; without a timer what had just happened. */
function triggerOf(task: Task, recorded: Recorded): Trigger | undefined {
  const { tasks, numbers, capture, scripts } = recorded;
  let first = task;
  let delayMs = 0;
  while (first.timer) {
    const { setMs, delayMs: ms } = first.timer;
    delayMs += ms;
    const setter = tasks[lastAt(tasks, setMs)];
    // A file may say that a timer ran before it was set.
    if (!setter || setter.startMs >= first.startMs || setMs > setter.endMs)
      return plus(triggerAt(setMs, capture, scripts), delayMs);
    const number = numbers.get(setter);
    if (number !== undefined)
      return { by: 'script', script: number, delayMs: Math.max(0, delayMs - (setter.endMs - setMs)) };
    first = setter;
  }
  return plus(whatHadHappened(first.startMs, capture, scripts), delayMs);
}

const plus = (trigger: Trigger | undefined, ms: number): Trigger | undefined =>
  trigger && { ...trigger, delayMs: Math.max(0, trigger.delayMs + ms) };

/** What set off something at a moment: the script that was running for the first time, else what had just happened. */
function triggerAt(ms: number, capture: Capture, scripts: readonly ScriptDraft[]): Trigger | undefined {
  const running = capture.observations?.work?.findLast(
    (w) => w.phase === 'evaluate' && w.startMs <= ms && endOfWork(w) >= ms,
  );
  if (!running) return whatHadHappened(ms, capture, scripts, STAMP_MS);
  const endMs = endOfWork(running);
  const script =
    running.url === undefined
      ? // Modules run without an address.
        scripts.findIndex((s) => Math.abs((s.endMs ?? -Infinity) - endMs) <= TOGETHER_MS)
      : scriptNamed(scripts, { type: 'script', url: running.url, line: running.line });
  if (script < 0) return whatHadHappened(ms, capture, scripts, STAMP_MS);
  return { by: 'script', script, delayMs: Math.min(0, ms - (scripts[script]?.endMs ?? endMs)) };
}

/** The last task that had begun by a moment; -1 for none. */
function lastAt(tasks: readonly Task[], ms: number): number {
  let low = 0;
  let high = tasks.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((tasks[middle] as Task).startMs <= ms) low = middle + 1;
    else high = middle;
  }
  return low - 1;
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

/** @param events when events were dispatched: what ran before is no task of what ran after */
function tasksOf(work: readonly Work[], events: readonly number[]): Task[] {
  const out: Task[] = [];
  for (const w of work) {
    const last = out.at(-1);
    const endMs = endOfWork(w);
    const isOfTimer = w.timer === undefined || w.timer.setMs === last?.timer?.setMs;
    const isParted = events.some((ms) => (last?.startMs ?? 0) < ms && w.startMs >= ms);
    if (last && isOfTimer && !isParted && w.startMs - last.endMs <= TOGETHER_MS) {
      last.endMs = Math.max(last.endMs, endMs);
      last.ms += w.durationMs;
      if (w.url) last.urls.set(w.url, (last.urls.get(w.url) ?? 0) + w.durationMs);
    } else {
      const urls = new Map(w.url ? [[w.url, w.durationMs]] : []);
      out.push({ startMs: w.startMs, endMs, ms: w.durationMs, urls, timer: w.timer });
    }
  }
  return out;
}

function ownerOf(task: Task, scripts: readonly ScriptDraft[]): number {
  const url = [...task.urls].sort((a, b) => b[1] - a[1])[0]?.[0];
  return url === undefined ? -1 : scripts.findIndex((s) => s.fetch >= 0 && s.url === url);
}

/**
 * What had just happened when a task began; some time before where nothing had.
 * @param earlyMs how much later than the task the time stamp of its event may lie, in ms
 */
function whatHadHappened(
  startMs: number,
  capture: Capture,
  scripts: readonly ScriptDraft[],
  earlyMs = EVENT_MS,
): Trigger | undefined {
  const { dclMs, loadMs } = capture.measured;
  const near = (ms: number | undefined): ms is number =>
    ms !== undefined && startMs - ms <= EVENT_MS && ms - startMs <= earlyMs;
  // No handler of the load event runs before those of DOMContentLoaded have (HTML, 13.2.7).
  const isBefore = dclMs !== undefined && startMs < dclMs;
  if (near(loadMs) && !(isBefore && near(dclMs))) return { by: 'event', event: 'load', delayMs: 0 };
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
