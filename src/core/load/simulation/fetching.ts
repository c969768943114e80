import { BROWSER, DIRTY, DISCOVER } from '../browser';
import type { FetchNode } from '../graph';
import { LoadState } from './state';

/** Discovery of fetches, what is let out and when, and what their arrival sets off. */
export abstract class Fetching extends LoadState {
  protected discover(id: number, now: number, cause: number, by: number): void {
    if (this.found[id] !== -1) return;
    const fetch = this.graph.fetches[id] as FetchNode;
    this.found[id] = now;
    this.causeKind[id] = cause;
    this.causeId[id] = by;
    if (fetch.refused) {
      this.sent[id] = this.first[id] = now;
      this.arrived(id, now);
      return;
    }
    if (
      (this.network.priority[id] as number) <= 1 &&
      this.parsedTo < this.graph.document.bodyOffset &&
      this.inFlight >= BROWSER.tightLimit
    ) {
      this.held.push(id);
      return;
    }
    this.release(id, now);
  }

  protected release(id: number, now: number): void {
    this.inFlight++;
    this.network.request(id, now);
  }

  protected releaseHeld(now: number): void {
    const loose = this.parsedTo >= this.graph.document.bodyOffset;
    while (this.held.length > 0 && (loose || this.inFlight < BROWSER.tightLimit)) {
      this.release(this.held.shift() as number, now);
    }
  }

  protected onDone(id: number, now: number): void {
    this.inFlight--;
    this.arrived(id, now);
    this.releaseHeld(now);
  }

  protected arrived(id: number, now: number): void {
    this.done[id] = now;
    for (const next of this.p.afterFetch[id] as readonly number[]) {
      const d = (this.graph.fetches[next] as FetchNode).discovery;
      this.later(next, now + (d.by === 'fetch' ? d.delayMs : 0), id);
    }
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
      if (this.parsedTo > 0) this.events.push(now + fetch.decodeMs * Math.sqrt(this.cpu), DIRTY, 0);
    }
    this.checkLoad(now);
  }

  protected later(id: number, at: number, cause: number): void {
    if (this.found[id] !== -1) return;
    this.causeId[id] = cause;
    this.events.push(at, DISCOVER, id);
  }
}
