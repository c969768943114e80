import { BROWSER, CALL, DELIVER_TASK, DISCOVER, REQUEST_TASK } from '../browser';
import type { FetchNode } from '../graph';
import { LoadState } from './state';

/** A request that comes so soon after what caused it is part of the same work. */
const FOLLOWS_MS = 5;

/** Discovery of fetches, what is let out and when, and what their arrival sets off. */
export abstract class Fetching extends LoadState {
  protected discover(id: number, now: number, cause: number, by: number): void {
    if (this.found[id] !== -1) return;
    const fetch = this.graph.fetches[id] as FetchNode;
    this.found[id] = now;
    this.hold(id);
    this.causeKind[id] = cause;
    this.causeId[id] = by;
    if (fetch.refused || fetch.kept) {
      this.sent[id] = this.first[id] = now;
      this.arrived(id, now);
      return;
    }
    // What follows another request is that request still.
    if (this.tight && fetch.discovery.by !== 'fetch' && !this.mayGo(this.network.priority[id] as number)) {
      (this.held[this.network.priority[id] as number] as number[]).push(id);
      this.holds++;
      return;
    }
    this.ask(id, now);
  }

  /** The load event waits for it, once. */
  private hold(id: number): void {
    if (this.holdsLoad[id] === 1 || !(this.graph.fetches[id] as FetchNode).holdsLoad) return;
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
  private ask(id: number, now: number): void {
    if ((this.graph.fetches[id] as FetchNode).kind === 'document') return this.network.request(id, now);
    const middle = this.network.priority[id] === BROWSER.middle;
    this.counted[id] = middle ? 2 : 1;
    this.out++;
    if (middle) this.middleOut++;
    this.enqueue(REQUEST_TASK, id, now);
  }

  /** Until the parser has reached the body, few requests of low priority are out at a time. */
  protected get tight(): boolean {
    return this.parsedTo < this.graph.document.bodyOffset;
  }

  /** Lets out what was held back, the most urgent first. */
  protected releaseHeld(now: number): void {
    const loose = !this.tight;
    for (let level = this.held.length - 1; level >= 0; level--) {
      const list = this.held[level] as number[];
      while (list.length > 0 && (loose || this.mayGo(level))) {
        this.holds--;
        this.ask(list.shift() as number, now);
      }
    }
  }

  /** A response is in: the page takes it over when the main thread gets to it. */
  protected onDone(id: number, now: number): void {
    this.done[id] = now;
    const { kind } = this.graph.fetches[id] as FetchNode;
    if (kind === 'document' || kind === 'frame' || this.graph.fetches[id]?.redirectTo !== undefined)
      this.arrived(id, now);
    else this.enqueue(DELIVER_TASK, id, now);
  }

  /** What handing a response over costs on the main thread. */
  protected deliveryMs(id: number): number {
    const f = this.graph.fetches[id] as FetchNode;
    return (BROWSER.deliverMs + (f.kind === 'style' ? f.decodedBytes * BROWSER.styleMsPerByte : 0)) * this.cpu;
  }

  protected arrived(id: number, now: number): void {
    if (this.done[id] === -1) this.done[id] = now;
    this.delivered[id] = now;
    const held = (this.graph.fetches[id] as FetchNode).holdsLoad;
    if ((this.counted[id] as number) > 0) this.out--;
    if (this.counted[id] === 2) this.middleOut--;
    for (const next of this.p.afterFetch[id] as readonly number[]) {
      const d = (this.graph.fetches[next] as FetchNode).discovery;
      this.later(next, now + (d.by === 'fetch' ? d.delayMs : 0), now, id);
    }
    this.call(this.p.calledBy.fetch[id] as readonly number[], now);
    const fetch = this.graph.fetches[id] as FetchNode;
    if (id === this.graph.document.fetch) {
      this.documentDone = true;
      this.received = Infinity;
      if (now >= this.commitAt) this.documentGrew(now);
    }
    if (fetch.kind === 'style') this.sheetPart(id, now);
    const script = this.p.scriptOfFetch[id] as number;
    if (script >= 0) this.scriptArrived(script, now);
    if (fetch.kind === 'image' || fetch.kind === 'font') {
      if (this.parsedTo > 0) this.invalidate(now);
    }
    // Only now: what it led to is counted before it is let go.
    if (held) this.holding--;
    this.checkLoad(now);
    if (this.holds > 0) this.releaseHeld(now);
  }

  /** Callbacks that something has set off, after their delays. */
  protected call(callbacks: readonly number[], now: number): void {
    for (const id of callbacks) this.events.push(now + (this.graph.scripts[id]?.after?.delayMs ?? 0), CALL, id);
  }

  protected later(id: number, at: number, now: number, cause: number): void {
    if (this.found[id] !== -1) return;
    this.causeId[id] = cause;
    // What follows in the same breath delays the load event before it is asked for (HTML, 13.2.7); a timer does not.
    if (at - now <= FOLLOWS_MS || this.graph.fetches[id]?.discovery.by === 'fetch') this.hold(id);
    this.events.push(at, DISCOVER, id);
  }
}
