import type { FetchNode } from './graph';

/** Requests below Medium that a browser lets out at a time to HTTP/1.1 servers, of all origins together. */
const DELAYABLE_OUT = 10;
/** Chromium's Medium: the priority from which a request is not delayable. */
const MEDIUM = 2;

/** In which order the requests of a page go, and which of low priority have to wait until others have ended. */
export class RequestOrder {
  /** Priority as it stands now; the browser raises some on the way. */
  readonly priority: Int8Array;
  /** Place among waiting requests of one priority: those that were raised come behind, in their order. */
  private readonly place: Float64Array;
  /** 1 for a delayable request that is out. */
  private readonly delayable: Uint8Array;
  private out = 0;
  private readonly withheld: number[] = [];

  constructor(fetches: readonly FetchNode[]) {
    this.priority = Int8Array.from(fetches, (f) => f.priority);
    this.place = new Float64Array(fetches.length);
    this.delayable = new Uint8Array(fetches.length);
  }

  /** False for a request that has to wait until another one has ended. */
  letOut(id: number): boolean {
    if ((this.priority[id] as number) >= MEDIUM) return true;
    if (this.out >= DELAYABLE_OUT) {
      this.withheld.push(id);
      return false;
    }
    this.delayable[id] = 1;
    this.out++;
    return true;
  }

  /** Makes a request more urgent, behind those that were so before; returns one that may go for that, or -1. */
  raise(id: number, priority: number, place: number): number {
    this.priority[id] = priority;
    this.place[id] = 1 + place;
    if (priority < MEDIUM) return -1;
    const at = this.withheld.indexOf(id);
    if (at < 0) return this.ended(id);
    this.withheld.splice(at, 1);
    return id;
  }

  /** A request has ended, or counts no longer; returns the one that may go in its place, or -1. */
  ended(id: number): number {
    if (this.delayable[id] === 0) return -1;
    this.delayable[id] = 0;
    this.out--;
    return this.withheld.length > 0 ? this.takeFirst(this.withheld) : -1;
  }

  /** Takes the most urgent one out of a list that is not empty; of alike ones the first. */
  takeFirst(list: number[]): number {
    let best = 0;
    for (let i = 1; i < list.length; i++) if (this.before(list[i] as number, list[best] as number)) best = i;
    const [id] = list.splice(best, 1);
    return id as number;
  }

  private before(a: number, b: number): boolean {
    const by = (this.priority[a] as number) - (this.priority[b] as number);
    return by > 0 || (by === 0 && (this.place[a] as number) < (this.place[b] as number));
  }
}
