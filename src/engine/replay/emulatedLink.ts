import { Duplex } from 'node:stream';
import { acknowledged, lost, newWindow } from '../../core/load/congestion';
import type { ReplayLink } from './messages';

/** Payload of a segment, and what IP and TCP with time stamps put around it, in bytes. */
const SEGMENT = { payload: 1448, around: 52 };
/** Longest wait at the bottleneck before packets are dropped, in ms. */
const QUEUE_MS = 200;
/** What a server's system takes of what it cannot send yet, in bytes: the rest it can still put into another order. */
const UNSENT = 16_384;
/** A timer is never sooner than this; what is due sooner is waited for without one. */
const SPIN_MS = 1.5;

/**
 * A link in user space: a connection carries nothing before the round trip that opening it takes, and bytes of both directions wait at one bottleneck each
 * that all connections share, with slow start and loss as TCP has them (core/load/congestion). Times are those of a clock
 * in ms, and what is due late is worked out for the moment at which it was due.
 */
export class EmulatedLink {
  private readonly down: Lane;
  private readonly up: Lane;
  private readonly due = new DueList();
  private timer: NodeJS.Timeout | NodeJS.Immediate | undefined;

  constructor(
    private readonly link: ReplayLink,
    private readonly clock: () => number = () => performance.now(),
  ) {
    this.down = new Lane(link.downKbps, link.rttMs / 2);
    this.up = new Lane(link.upKbps, link.rttMs / 2);
  }

  get rttMs(): number {
    return this.link.rttMs;
  }

  /**
   * Puts the link between a connection that was just taken and a server: what it says arrives after a round trip, as if
   * that had been spent on opening it, and `extraMs`.
   * @returns the server's end
   */
  join(browser: Duplex, extraMs = 0): Duplex {
    const { server, near } = new Connection(
      this,
      this.down,
      this.up,
      this.link.rttMs,
      this.clock() + this.link.rttMs + extraMs,
    );
    browser.pipe(near).pipe(browser);
    browser.on('error', () => near.destroy());
    browser.once('close', () => near.destroy());
    near.once('close', () => browser.destroy());
    return server;
  }

  now(): number {
    return this.clock();
  }

  /** Does something at a time, and tells it that time. */
  at(time: number, what: (time: number) => void): void {
    this.due.add(time, what);
    this.wake();
  }

  private wake(): void {
    const next = this.due.next;
    if (next === Infinity) return;
    clearTimeout(this.timer as NodeJS.Timeout);
    clearImmediate(this.timer as NodeJS.Immediate);
    const ms = next - this.clock();
    this.timer = ms > SPIN_MS ? setTimeout(() => this.run(), ms - 1) : setImmediate(() => this.run());
  }

  private run(): void {
    for (let next = this.due.take(this.clock()); next; next = this.due.take(this.clock())) next.what(next.time);
    this.wake();
  }
}

/** One direction of the link. */
class Lane {
  private freeAt = 0;
  private readonly msPerByte: number;

  constructor(
    kbps: number,
    private readonly delayMs: number,
  ) {
    this.msPerByte = 8 / Math.max(1, kbps);
  }

  /** Time that a packet would wait for its turn. */
  queuedMs(now: number): number {
    return Math.max(0, this.freeAt - now);
  }

  /** Sends a packet; gives when it arrives. */
  send(now: number, bytes: number): number {
    this.freeAt = Math.max(now, this.freeAt) + bytes * this.msPerByte;
    return this.freeAt + this.delayMs;
  }
}

/** One connection over the link, with an end near the browser and one at the server. */
class Connection {
  readonly near: Duplex;
  readonly server: Duplex;
  private readonly window = newWindow();
  private readonly waiting: Buffer[] = [];
  private unsent = 0;
  private taken: (() => void) | undefined;
  private ending: (() => void) | undefined;
  private inFlight = 0;
  private packets = 0;
  private expected = 0;
  private readonly early = new Map<number, Buffer>();

  constructor(
    private readonly link: EmulatedLink,
    private readonly down: Lane,
    private readonly up: Lane,
    private readonly rttMs: number,
    private readonly opensAt: number,
  ) {
    this.server = new Duplex({
      read: () => undefined,
      write: (chunk: Buffer, _, done) => {
        this.waiting.push(chunk);
        this.unsent += chunk.length;
        this.taken = done;
        this.pump(this.link.now());
      },
      final: (done) => {
        this.ending = done;
        this.pump(this.link.now());
      },
      destroy: (error, done) => {
        if (!this.near.destroyed) this.link.at(this.link.now() + this.rttMs / 2, () => this.near.destroy());
        done(error);
      },
    });
    this.near = new Duplex({
      read: () => undefined,
      write: (chunk: Buffer, _, done) => this.sendUp(chunk, done),
      final: (done) => {
        this.link.at(this.up.send(this.link.now(), SEGMENT.around), () => this.server.push(null));
        done();
      },
      destroy: (error, done) => {
        if (!this.server.destroyed) this.server.destroy();
        done(error);
      },
    });
    this.server.on('error', () => undefined);
    this.near.on('error', () => undefined);
  }

  /** Requests are short: they wait for the bottleneck, and the next piece for the one before it. */
  private sendUp(chunk: Buffer, done: () => void): void {
    const now = Math.max(this.link.now(), this.opensAt);
    let arrives = now;
    for (let at = 0; at < chunk.length; at += SEGMENT.payload)
      arrives = this.up.send(now, Math.min(SEGMENT.payload, chunk.length - at) + SEGMENT.around);
    this.link.at(arrives, () => {
      if (!this.server.destroyed) this.server.push(chunk);
    });
    this.link.at(arrives - this.rttMs / 2, () => done());
  }

  /** Sends what the window allows, and takes more from the server when little is left. */
  private pump(now: number): void {
    while (this.unsent > 0 && this.inFlight < this.window.segments) {
      const bytes = this.take();
      const packet = this.packets++;
      const queued = this.down.queuedMs(now);
      this.inFlight++;
      if (queued > QUEUE_MS) {
        lost(this.window, now, this.rttMs, queued);
        this.link.at(now + this.rttMs + queued, (t) => this.transmit(packet, bytes, t));
      } else this.transmit(packet, bytes, now);
    }
    if (this.unsent <= UNSENT && this.taken) {
      const { taken } = this;
      this.taken = undefined;
      taken();
    }
    if (this.unsent === 0 && this.ending && this.inFlight === 0) {
      this.ending();
      this.ending = undefined;
      if (!this.near.destroyed) this.near.push(null);
    }
  }

  private take(): Buffer {
    const out: Buffer[] = [];
    let room = SEGMENT.payload;
    while (room > 0 && this.waiting.length > 0) {
      const first = this.waiting[0] as Buffer;
      if (first.length <= room) {
        out.push(first);
        this.waiting.shift();
      } else {
        out.push(first.subarray(0, room));
        this.waiting[0] = first.subarray(room);
      }
      room -= (out.at(-1) as Buffer).length;
    }
    this.unsent -= SEGMENT.payload - room;
    return out.length === 1 ? (out[0] as Buffer) : Buffer.concat(out);
  }

  private transmit(packet: number, bytes: Buffer, now: number): void {
    const queued = this.down.queuedMs(now);
    const arrives = this.down.send(now, bytes.length + SEGMENT.around);
    this.link.at(arrives, (t) => {
      this.arrive(packet, bytes);
      this.link.at(t + this.rttMs / 2, (acked) => {
        // Linux (measured with ss on 6.18) lets every acknowledgement of slow start count, whether or not the window was
        // what kept the sender back.
        const starting = this.window.segments < this.window.threshold;
        const limited = starting || this.unsent > 0 || this.inFlight >= this.window.segments;
        this.inFlight--;
        acknowledged(this.window, acked, this.rttMs, 1, packet, this.packets, queued, limited);
        this.pump(acked);
      });
    });
  }

  /** In order (RFC 9293, 3.10): what comes behind a lost packet is kept until that has come again. */
  private arrive(packet: number, bytes: Buffer): void {
    this.early.set(packet, bytes);
    for (let next = this.early.get(this.expected); next; next = this.early.get(this.expected)) {
      this.early.delete(this.expected++);
      if (!this.near.destroyed) this.near.push(next);
    }
  }
}

interface Due {
  readonly time: number;
  readonly nth: number;
  readonly what: (time: number) => void;
}

/** Things to be done, the earliest first and of the same time the first that was added (a binary heap). */
class DueList {
  private readonly heap: Due[] = [];
  private added = 0;

  get next(): number {
    return this.heap[0]?.time ?? Infinity;
  }

  add(time: number, what: Due['what']): void {
    const { heap } = this;
    heap.push({ time, nth: this.added++, what });
    for (let at = heap.length - 1; at > 0;) {
      const above = (at - 1) >> 1;
      if (!before(heap[at] as Due, heap[above] as Due)) break;
      this.swap(at, above);
      at = above;
    }
  }

  /** Takes out the first that is due by now. */
  take(now: number): Due | undefined {
    const { heap } = this;
    const first = heap[0];
    if (!first || first.time > now) return undefined;
    const last = heap.pop() as Due;
    if (heap.length === 0) return first;
    heap[0] = last;
    for (let at = 0; ;) {
      const [left, right] = [2 * at + 1, 2 * at + 2];
      let least = at;
      for (const child of [left, right])
        if (child < heap.length && before(heap[child] as Due, heap[least] as Due)) least = child;
      if (least === at) return first;
      this.swap(at, least);
      at = least;
    }
  }

  private swap(a: number, b: number): void {
    const kept = this.heap[a] as Due;
    this.heap[a] = this.heap[b] as Due;
    this.heap[b] = kept;
  }
}

const before = (a: Due, b: Due) => a.time < b.time || (a.time === b.time && a.nth < b.nth);
