import type { Browser, CDPSession } from 'playwright-core';
import type { Timer, Work } from '../../core/capture/capture';
import { within } from './deadline';
import { Timers, type TimerEvent } from './timers';

/** One complete event of the Trace Event Format. */
interface TraceEvent {
  readonly name: string;
  readonly ph: string;
  readonly ts: number;
  readonly dur?: number;
  /** Processor time of the thread at the start and over the event, in µs, where the platform counts it. */
  readonly tts?: number;
  readonly tdur?: number;
  readonly pid: number;
  readonly tid: number;
  readonly args?: {
    readonly name?: string;
    readonly data?: NonNullable<TimerEvent['args']>['data'] & { readonly url?: string; readonly lineNumber?: number };
    readonly fileName?: string;
    readonly beginData?: { readonly url?: string; readonly startLine?: number };
  };
}

/** By how much the clock has to differ from the processor before the end of work is said apart, in ms. */
const WORTH_SAYING_MS = 1;

const CATEGORIES = ['devtools.timeline', 'disabled-by-default-devtools.timeline', 'v8.execute', '__metadata'];

/** Starts tracing the whole browser. */
export async function startTrace(browser: Browser): Promise<CDPSession> {
  const session = await browser.newBrowserCDPSession();
  await session.send('Tracing.start', {
    transferMode: 'ReturnAsStream',
    traceConfig: { recordMode: 'recordAsMuchAsPossible', includedCategories: CATEGORIES, excludedCategories: ['*'] },
  });
  return session;
}

/**
 * Ends tracing and returns its events.
 * @throws when the browser does not hand them over in time, or is gone
 */
export function endTrace(session: CDPSession, ms: number, signal?: AbortSignal): Promise<TraceEvent[]> {
  return within(ms, readTrace(session), signal, 'The trace');
}

async function readTrace(session: CDPSession): Promise<TraceEvent[]> {
  const complete = new Promise<string | undefined>((done) => {
    session.once('Tracing.tracingComplete', (e) => done(e.stream));
  });
  await session.send('Tracing.end');
  const handle = await complete;
  if (!handle) return [];
  const parts: Buffer[] = [];
  for (;;) {
    const chunk = await session.send('IO.read', { handle, size: 1 << 20 });
    parts.push(Buffer.from(chunk.data, chunk.base64Encoded ? 'base64' : 'utf8'));
    if (chunk.eof) break;
  }
  await session.send('IO.close', { handle });
  const parsed = JSON.parse(Buffer.concat(parts).toString('utf8')) as TraceEvent[] | { traceEvents: TraceEvent[] };
  return Array.isArray(parsed) ? parsed : parsed.traceEvents;
}

const KIND: Readonly<Record<string, Work['kind']>> = {
  EvaluateScript: 'script',
  FunctionCall: 'script',
  'v8.compile': 'script',
  'v8.compileModule': 'script',
  'v8.evaluateModule': 'script',
  EventDispatch: 'script',
  TimerFire: 'script',
  FireAnimationFrame: 'script',
  RunMicrotasks: 'script',
  ParseHTML: 'parse',
  ParseAuthorStyleSheet: 'style',
  UpdateLayoutTree: 'style',
  Layout: 'layout',
  PrePaint: 'paint',
  Paint: 'paint',
  Layerize: 'paint',
  Commit: 'paint',
  UpdateLayer: 'paint',
  'Decode Image': 'decode',
};

/**
 * Main-thread work of the page's process by self time: what an event spent less what the events inside it spent.
 * Processor time where it is known: what other programs did meanwhile on the recording machine is no work of the page.
 * @param zeroS monotonic time of the navigation start, in seconds
 */
export function mainThreadWork(events: readonly TraceEvent[], zeroS: number): Work[] {
  const thread = pageMain(events);
  if (!thread) return [];
  const all = events.filter((e) => e.pid === thread.pid && e.tid === thread.tid).sort((a, b) => a.ts - b.ts);
  const own = completeEvents(all);
  const timers = new Timers(all, zeroS * 1000);
  const out: Work[] = [];
  interface Open {
    event: TraceEvent;
    end: number;
    inside: number;
    url?: string;
    line?: number;
    evaluates: boolean;
    timer?: Timer;
  }
  const stack: Open[] = [];
  const close = (top: Open) => {
    const total = top.event.tdur ?? top.event.dur ?? 0;
    const parent = stack.at(-1);
    if (parent) parent.inside += total;
    const kind = KIND[top.event.name];
    const selfMs = (total - top.inside) / 1000;
    const startMs = top.event.ts / 1000 - zeroS * 1000;
    const untilMs = startMs + (top.event.dur ?? 0) / 1000;
    if (!kind || selfMs < 0.02 || startMs < -1) return;
    out.push({
      kind,
      url: top.url,
      line: top.line,
      startMs: round(startMs),
      durationMs: round(selfMs),
      ...(untilMs - startMs - selfMs > WORTH_SAYING_MS && { untilMs: round(untilMs) }),
      ...(kind === 'script' ? { phase: top.evaluates ? 'evaluate' : 'later' } : {}),
      ...(kind === 'script' && top.timer && { timer: top.timer }),
    });
  };
  for (const event of own) {
    while (stack.length > 0 && (stack.at(-1)?.end ?? 0) <= event.ts) close(stack.pop() as Open);
    const parent = stack.at(-1);
    const data = event.args?.data;
    const url = data?.url || event.args?.fileName || event.args?.beginData?.url || parent?.url;
    const ownLine = data?.url ? data.lineNumber : undefined;
    stack.push({
      event,
      end: event.ts + (event.dur ?? 0),
      inside: 0,
      url,
      line: ownLine ?? parent?.line,
      evaluates:
        /^(EvaluateScript|v8\.compile|v8\.compileModule|v8\.evaluateModule)$/.test(event.name) ||
        (parent?.evaluates ?? false),
      timer: timers.of(event) ?? parent?.timer,
    });
  }
  while (stack.length > 0) close(stack.pop() as Open);
  return out.sort((a, b) => a.startMs - b.startMs);
}

/** Complete events in order, of events in order; begin and end events become one. */
function completeEvents(events: readonly TraceEvent[]): TraceEvent[] {
  const out: TraceEvent[] = [];
  const open: TraceEvent[] = [];
  for (const event of events) {
    if (event.ph === 'X' && event.dur !== undefined) out.push(event);
    else if (event.ph === 'B') open.push(event);
    else if (event.ph === 'E') {
      const start = open.pop();
      if (!start) continue;
      const tdur = start.tts !== undefined && event.tts !== undefined ? event.tts - start.tts : undefined;
      out.push({ ...start, ph: 'X', dur: event.ts - start.ts, tdur });
    }
  }
  return out.sort((a, b) => a.ts - b.ts || (b.dur ?? 0) - (a.dur ?? 0));
}

/** The main thread of the page's renderer: the one that worked longest on web addresses. */
function pageMain(events: readonly TraceEvent[]): { pid: number; tid: number } | undefined {
  const mains = events.filter((e) => e.ph === 'M' && e.name === 'thread_name' && e.args?.name === 'CrRendererMain');
  const spent = new Map<string, number>();
  for (const e of events) {
    const url = e.args?.data?.url || e.args?.beginData?.url || e.args?.fileName || '';
    if (/^https?:/.test(url)) spent.set(`${e.pid}:${e.tid}`, (spent.get(`${e.pid}:${e.tid}`) ?? 0) + 1 + (e.dur ?? 0));
  }
  return mains
    .map((m) => ({ pid: m.pid, tid: m.tid, us: spent.get(`${m.pid}:${m.tid}`) ?? 0 }))
    .sort((a, b) => b.us - a.us)[0];
}

function round(ms: number): number {
  return Math.round(ms * 1000) / 1000;
}
