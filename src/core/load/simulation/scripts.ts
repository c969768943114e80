import { BROWSER, CALL, CAUSE, DCL_TASK, RUN_TASK } from '../browser';
import type { FetchNode, ScriptNode } from '../graph';
import { FOLLOWS_MS, type Fetches } from './fetches';
import type { Frames } from './frames';
import type { MainThread, TaskKind } from './mainThread';
import type { Moments } from './moments';
import type { Parser } from './parser';
import type { Shared } from './shared';
import type { Styles } from './styles';

interface Needs {
  readonly thread: Pick<MainThread, 'enqueue'>;
  readonly fetches: Pick<Fetches, 'discover' | 'later' | 'isHere'>;
  readonly parser: Pick<Parser, 'parsedTo' | 'done' | 'goOn' | 'wantParse'>;
  readonly styles: Pick<Styles, 'pendingBlocking'>;
  readonly frames: Pick<Frames, 'invalidate' | 'gateOpen' | 'fcp' | 'heroElementMs'>;
  readonly moments: Pick<Moments, 'checkLoad'>;
}

/** Scripts of all kinds: when each may run, and what its run sets off (HTML, 4.12.1 and 8.1.4). */
export class Scripts {
  readonly start: Float64Array;
  readonly ended: Float64Array;
  /** For scripts that waited for a style: its fetch. */
  readonly style: Int32Array;
  /** Script that the parser stands at; -1 for none. */
  waiting = -1;
  /** Script that kept the parser before it reached the body; -1 for none. */
  gateScript = -1;
  /** Runs that the load event waits for. */
  pending = 0;
  /** A first frame is due, before which no deferred script runs. */
  drawFirst = false;
  private readonly queued: Uint8Array;
  private nextDeferred = 0;
  private endOfDeferred = false;

  constructor(
    private readonly shared: Shared,
    private readonly page: Needs,
  ) {
    const m = shared.graph.scripts.length;
    this.start = new Float64Array(m).fill(-1);
    this.ended = new Float64Array(m).fill(-1);
    this.style = new Int32Array(m).fill(-1);
    this.queued = new Uint8Array(m);
  }

  readonly task: TaskKind = { begin: (id, now) => this.begin(id, now), end: (id, now) => this.end(id, now) };

  private node(id: number): ScriptNode {
    return this.shared.graph.scripts[id] as ScriptNode;
  }

  /** A run with those of the modules that run before it. Later work has its overhead in what was recorded. */
  private begin(id: number, now: number): number {
    this.start[id] = now;
    const script = this.node(id);
    let ms = script.runMs;
    for (const module of script.imports ?? []) {
      if (this.node(module).mode !== 'import' || this.start[module] !== -1) continue;
      this.start[module] = now;
      ms += this.node(module).runMs;
    }
    const { work, cpu } = this.shared;
    return ms * work + (script.mode === 'callback' ? 0 : BROWSER.runOverheadMs * cpu);
  }

  private end(id: number, now: number): void {
    const { parser, frames, moments } = this.page;
    const { mode, imports } = this.node(id);
    this.ended[id] = now;
    if (mode !== 'callback') this.pending--;
    for (const module of imports ?? [])
      if (this.ended[module] === -1 && this.node(module).mode === 'import') {
        this.ended[module] = now;
        this.setsOff(module, now);
      }
    this.setsOff(id, now);
    if (this.waiting === id) {
      this.waiting = -1;
      if (parser.parsedTo <= this.shared.graph.document.bodyOffset) this.gateScript = id;
      parser.goOn(now);
    }
    frames.invalidate(now);
    parser.wantParse(now);
    this.runDeferred(now);
    moments.checkLoad(now);
  }

  /** What hangs on a run: callbacks, requests, and the hero's element. */
  private setsOff(id: number, now: number): void {
    const { graph, p } = this.shared;
    this.call(p.calledBy.script[id] as readonly number[], now);
    for (const fetch of p.afterScript[id] as readonly number[]) {
      const d = (graph.fetches[fetch] as FetchNode).discovery;
      const delayMs = d.by === 'script' ? d.delayMs : 0;
      // What a run asks for is on its way before the next task begins, and asking was part of the run.
      if (delayMs <= FOLLOWS_MS) this.page.fetches.discover(fetch, now, CAUSE.script, id, true);
      else this.page.fetches.later(fetch, now + delayMs, now, id);
    }
    if (graph.hero.builtBy === id) this.page.frames.heroElementMs = now;
  }

  /** Callbacks that something has set off, after their delays. */
  call(callbacks: readonly number[], now: number): void {
    for (const id of callbacks) this.shared.queue.push(now + (this.node(id).after?.delayMs ?? 0), CALL, id);
  }

  /** The parser comes to a script, and waits at it. */
  meet(id: number, now: number): void {
    const script = this.node(id);
    if (script.fetch >= 0) {
      const { discovery } = this.shared.graph.fetches[script.fetch] as FetchNode;
      // One that a script has just written into the document was found by that.
      const [cause, by] = discovery.by === 'script' ? [CAUSE.script, discovery.script] : [CAUSE.document, -1];
      this.page.fetches.discover(script.fetch, now, cause as number, by as number);
    }
    this.waiting = id;
    this.tryWaiting(now);
  }

  /** Runs the script that the parser stands at, if nothing holds it back. */
  tryWaiting(now: number): void {
    const id = this.waiting;
    if (id < 0 || this.queued[id]) return;
    if (this.page.styles.pendingBlocking > 0 || !this.isHere(this.node(id))) return;
    this.queue(id, now);
  }

  /** The last stylesheet of the head is in. What it lets be seen is drawn before scripts that waited for the document's end. */
  lastSheetIn(fetch: number): void {
    const { parser, frames } = this.page;
    if (this.waiting >= 0) this.style[this.waiting] = fetch;
    this.drawFirst = parser.done && frames.fcp < 0 && frames.gateOpen;
  }

  /** It is in, and so is every module that it imports (HTML, 8.1.4.2). */
  private isHere(script: ScriptNode): boolean {
    const { fetches } = this.page;
    if (script.fetch >= 0 && !fetches.isHere(script.fetch)) return false;
    for (const id of script.imports ?? []) {
      const { fetch } = this.node(id);
      if (fetch >= 0 && !fetches.isHere(fetch)) return false;
    }
    return true;
  }

  /** The file of a script is in. */
  arrived(id: number, now: number): void {
    const { mode } = this.node(id);
    // What arrives after the sheets did not wait for them.
    this.style[id] = -1;
    if (mode === 'async' || mode === 'dynamic') this.whenHere(id, now);
    else if (mode === 'defer') this.runDeferred(now);
    else if (mode === 'import') this.importArrived(id, now);
    else if (this.waiting === id) this.tryWaiting(now);
  }

  private whenHere(id: number, now: number): void {
    if (this.isHere(this.node(id))) this.queue(id, now);
  }

  /** The last module that somebody waited for may be this one. */
  private importArrived(module: number, now: number): void {
    for (const s of this.shared.graph.scripts)
      if ((s.mode === 'async' || s.mode === 'dynamic') && s.imports?.includes(module)) this.whenHere(s.id, now);
    this.runDeferred(now);
  }

  /** Puts a run among the tasks of the main thread, once. */
  queue(id: number, now: number): void {
    if (this.queued[id]) return;
    this.queued[id] = 1;
    // No event waits for a timer or a handler.
    if (this.node(id).mode !== 'callback') this.pending++;
    this.page.thread.enqueue(RUN_TASK, id, now);
  }

  /** Runs deferred scripts in their order once the document is parsed; DOMContentLoaded comes after the last (HTML, 13.2.7). */
  runDeferred(now: number): void {
    if (!this.page.parser.done || this.endOfDeferred || this.drawFirst) return;
    const id = this.shared.p.deferred[this.nextDeferred];
    if (id !== undefined) {
      if (this.queued[id] && this.ended[id] === -1) return;
      if (this.ended[id] !== -1) {
        this.nextDeferred++;
        return this.runDeferred(now);
      }
      if (this.page.styles.pendingBlocking === 0 && this.isHere(this.node(id))) this.queue(id, now);
      return;
    }
    this.endOfDeferred = true;
    this.page.thread.enqueue(DCL_TASK, 0, now);
  }
}
