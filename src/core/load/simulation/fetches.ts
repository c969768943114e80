import { BROWSER, DELIVER_TASK, DISCOVER, REQUEST, REQUEST_TASK } from '../browser';
import type { FetchNode } from '../graph';
import type { Frames } from './frames';
import type { MainThread, TaskKind } from './mainThread';
import type { Moments } from './moments';
import type { Parser } from './parser';
import type { Scripts } from './scripts';
import type { Shared } from './shared';
import type { Styles } from './styles';

/** A request that comes so soon after what caused it is part of the same work. */
export const FOLLOWS_MS = 5;

interface Needs {
  readonly thread: Pick<MainThread, 'enqueue'>;
  readonly parser: Pick<Parser, 'inHead' | 'parsedTo' | 'documentArrived'>;
  readonly styles: Pick<Styles, 'partArrived'>;
  readonly scripts: Pick<Scripts, 'arrived' | 'call'>;
  readonly frames: Pick<Frames, 'invalidate'>;
  readonly moments: Pick<Moments, 'checkLoad'>;
}

/** Discovery of fetches, what is let out and when, and what their arrival sets off. Times are -1 until they are known. */
export class Fetches {
  readonly found: Float64Array;
  readonly sent: Float64Array;
  readonly first: Float64Array;
  readonly done: Float64Array;
  /** When Early Hints had it asked for. */
  readonly hintedAt: Float64Array;
  /** When the page has it: its main thread may have been busy. */
  readonly delivered: Float64Array;
  readonly causeKind: Uint8Array;
  readonly causeId: Int32Array;
  /** Fetches that delay the load event and are not here yet. */
  holding = 0;
  /** Held back while the head is pending, by priority. */
  private readonly held: number[][] = [[], [], [], [], []];
  private holds = 0;
  /** Requests of the page that are out, those of middle priority among them; 2 in `counted` for such a one, 1 for others. */
  private out = 0;
  private middleOut = 0;
  private readonly counted: Uint8Array;
  /** 1 for what the load event has been told to wait for. */
  private readonly holdsLoad: Uint8Array;

  constructor(
    private readonly shared: Shared,
    private readonly page: Needs,
  ) {
    const n = shared.graph.fetches.length;
    const times = () => new Float64Array(n).fill(-1);
    this.found = times();
    this.hintedAt = times();
    this.sent = times();
    this.first = times();
    this.done = times();
    this.delivered = times();
    this.counted = new Uint8Array(n);
    this.holdsLoad = new Uint8Array(n);
    this.causeKind = new Uint8Array(n);
    this.causeId = new Int32Array(n).fill(-1);
  }

  /** Handing a response over to the page. */
  readonly delivering: TaskKind = {
    begin: (id) => {
      const f = this.node(id);
      return (BROWSER.deliverMs + (f.kind === 'style' ? f.decodedBytes * BROWSER.styleMsPerByte : 0)) * this.shared.cpu;
    },
    end: (id, now) => this.arrived(id, now),
  };

  /** Sending a request: it is on its way before all that goes with it is done. */
  readonly requesting: TaskKind = {
    begin: (id, now) => {
      this.shared.queue.push(now + BROWSER.requestFixedMs, REQUEST, id);
      return BROWSER.requestMs * this.shared.cpu;
    },
    end: () => undefined,
  };

  private node(id: number): FetchNode {
    return this.shared.graph.fetches[id] as FetchNode;
  }

  /** @param within true when the task that runs sends the request itself, as computing styles does for backgrounds */
  discover(id: number, now: number, cause: number, by: number, within = false): void {
    if (this.found[id] !== -1) return;
    const fetch = this.node(id);
    this.found[id] = now;
    this.hold(id);
    this.causeKind[id] = cause;
    this.causeId[id] = by;
    if (fetch.refused || fetch.kept) {
      this.sent[id] = this.first[id] = now;
      this.arrived(id, now);
      return;
    }
    // The browser has it already, or will: it is not asked for again.
    if (this.hintedAt[id] !== -1) {
      if (this.done[id] !== -1) this.page.thread.enqueue(DELIVER_TASK, id, now);
      return;
    }
    // What follows another request is that request still.
    const priority = this.shared.network.priority[id] as number;
    if (this.page.parser.inHead && fetch.discovery.by !== 'fetch' && !this.mayGo(priority)) {
      (this.held[priority] as number[]).push(id);
      this.holds++;
      return;
    }
    this.ask(id, now, within);
  }

  /** Early Hints are here: the browser asks for their files by itself, long before there is a page. */
  hinted(now: number): void {
    const { graph, p, network } = this.shared;
    for (const id of p.early) {
      const { refused, kept } = this.node(id);
      if (this.found[id] !== -1 || refused || kept) continue;
      this.hintedAt[id] = now;
      network.request(id, now);
    }
    graph.preconnects.forEach((hint, i) => {
      const pool = p.hinted[i] as number;
      if (hint.early && pool >= 0) network.preconnect(pool, now);
    });
  }

  /** The load event waits for it, once. */
  private hold(id: number): void {
    if (this.holdsLoad[id] === 1 || !this.node(id).holdsLoad) return;
    this.holdsLoad[id] = 1;
    this.holding++;
  }

  /**
   * While the head is pending: what is urgent is never held back; of middle priority two are out at a time, whatever
   * else is; anything less goes only while fewer than two are out in all.
   */
  private mayGo(priority: number): boolean {
    if (priority >= BROWSER.urgentFrom) return true;
    return (priority === BROWSER.middle ? this.middleOut : this.out) < BROWSER.tightLimit;
  }

  /** The way of a request from the page to the network: the browser itself asks for the page. */
  private ask(id: number, now: number, within = false): void {
    if (this.node(id).kind === 'document') return this.shared.network.request(id, now);
    const middle = this.shared.network.priority[id] === BROWSER.middle;
    this.counted[id] = middle ? 2 : 1;
    this.out++;
    if (middle) this.middleOut++;
    if (within) this.shared.queue.push(now + BROWSER.requestFixedMs, REQUEST, id);
    else this.page.thread.enqueue(REQUEST_TASK, id, now);
  }

  /** Lets out what was held back, the most urgent first. */
  releaseHeld(now: number): void {
    const loose = !this.page.parser.inHead;
    for (let level = this.held.length - 1; level >= 0; level--) {
      const list = this.held[level] as number[];
      while (list.length > 0 && (loose || this.mayGo(level))) {
        this.holds--;
        this.ask(list.shift() as number, now);
      }
    }
  }

  /** A response is in: the page takes it over when the main thread gets to it. */
  responded(id: number, now: number): void {
    this.done[id] = now;
    // Kept until the page asks for it.
    if (this.found[id] === -1) return;
    const { kind, redirectTo } = this.node(id);
    if (kind === 'document' || kind === 'frame' || redirectTo !== undefined) this.arrived(id, now);
    else this.page.thread.enqueue(DELIVER_TASK, id, now);
  }

  private arrived(id: number, now: number): void {
    const { graph, p } = this.shared;
    const { parser, styles, scripts, frames, moments } = this.page;
    if (this.done[id] === -1) this.done[id] = now;
    this.delivered[id] = now;
    const fetch = this.node(id);
    if ((this.counted[id] as number) > 0) this.out--;
    if (this.counted[id] === 2) this.middleOut--;
    for (const next of p.afterFetch[id] as readonly number[]) {
      const d = this.node(next).discovery;
      this.later(next, now + (d.by === 'fetch' ? d.delayMs : 0), now, id);
    }
    scripts.call(p.calledBy.fetch[id] as readonly number[], now);
    if (id === graph.document.fetch) parser.documentArrived(now);
    if (fetch.kind === 'style') styles.partArrived(id, now);
    const script = p.scriptOfFetch[id] as number;
    if (script >= 0) scripts.arrived(script, now);
    if ((fetch.kind === 'image' || fetch.kind === 'font') && parser.parsedTo > 0) frames.invalidate(now);
    // Only now: what it led to is counted before it is let go.
    if (fetch.holdsLoad) this.holding--;
    moments.checkLoad(now);
    if (this.holds > 0) this.releaseHeld(now);
  }

  /** Discovers a fetch at a time to come. */
  later(id: number, at: number, now: number, cause: number): void {
    if (this.found[id] !== -1) return;
    this.causeId[id] = cause;
    // What follows in the same breath delays the load event before it is asked for (HTML, 13.2.7); a timer does not.
    if (at - now <= FOLLOWS_MS || this.node(id).discovery.by === 'fetch') this.hold(id);
    this.shared.queue.push(at, DISCOVER, id);
  }

  /** True when it is here, at the end of its redirects. */
  isHere(fetch: number): boolean {
    return this.delivered[this.shared.p.lastHop[fetch] as number] !== -1;
  }
}
