import { type EventQueue } from './eventQueue';
import type { FetchNode, Link } from './graph';

/**
 * The network of one visitor, packet by packet: connection setup, slow start, and one bottleneck
 * that all connections share first come, first served. Follows TCP (RFC 9293), initial window of
 * ten segments (RFC 6928), congestion avoidance after the queue shows (as CUBIC with HyStart does),
 * TLS 1.3 (RFC 8446: one round trip), six connections an origin on HTTP/1.1, one on HTTP/2.
 */

/** Constants of the network; see docs/load-model.md. */
export const NETWORK = {
  segmentBytes: 1440,
  /** IP, TCP and TLS bytes around each segment. */
  segmentOverhead: 60,
  initialWindow: 10,
  /** What the server sends while TLS is set up: certificate and its messages. */
  handshakeBytes: 3200,
  /** Longest wait at the bottleneck before packets are dropped. */
  queueMs: 200,
  /** Queueing that ends slow start. */
  slowStartEndsMs: 16,
  /** Growth of the window for each segment acknowledged after slow start, while nothing was lost. */
  growthBeforeLoss: 0.05,
  lossFactor: 0.7,
  /** Packets of one file at most. */
  maxPackets: 8000,
  perOriginH1: 6,
} as const;

interface Connection {
  readonly origin: string;
  readonly h2: boolean;
  ready: boolean;
  window: number;
  inFlight: number;
  slowStart: boolean;
  cutAt: number;
  /** Window when a packet was last lost; 0 for none yet. */
  windowAtLoss: number;
  roundEndsAt: number;
  lastSentAt: number;
  /** Streams with response data left to send, in turn. */
  sending: number[];
  turn: number;
  /** Requests out on it (HTTP/1.1 allows one). */
  busy: number;
}

/** What the browser wants to hear. */
export interface NetworkListener {
  /** Request handed to a connection. */
  onSent(fetch: number, at: number): void;
  /** First byte of the response. */
  onFirstByte(fetch: number, at: number): void;
  /** More of the document arrived; called for the watched fetch only. */
  onBytes(fetch: number, bytes: number, at: number): void;
  onDone(fetch: number, at: number): void;
}

/** Kinds of event that the network puts into the shared queue. */
export const CONNECTED = 1;
export const RESPOND = 2;
export const RESEND = 8;
export const HANDSHAKE = 9;

/** One simulated network; driven by `step` in time order. */
export class Network {
  private readonly connections: Connection[] = [];
  private readonly waiting = new Map<string, number[]>();
  private readonly lookedUp = new Set<string>();
  /** Bytes that the server has still to send, and that have still to arrive. */
  private readonly remaining: Float64Array;
  private readonly awaited: Float64Array;
  /** Bytes of a packet: a segment; more for very large files, whose every packet makes no difference. */
  private readonly segment: Float64Array;
  private readonly started: Uint8Array;
  private readonly connectionOf: Int32Array;
  /** Priority as it stands now; the browser raises some on the way. */
  readonly priority: Int8Array;
  private readonly lost: { connection: number; id: number; size: number }[] = [];
  private downFreeAt = 0;
  private upFreeAt = 0;
  // Packets on the way down, in order: the delay is the same for all.
  private ring = {
    at: new Float64Array(512),
    fetch: new Int32Array(512),
    connection: new Int32Array(512),
    size: new Float64Array(512),
  };
  private head = 0;
  private acked = 0;
  private tail = 0;
  private readonly downPerByte: number;
  private readonly upPerByte: number;
  private readonly half: number;

  constructor(
    private readonly fetches: readonly FetchNode[],
    private readonly link: Link,
    private readonly lookups: boolean,
    private readonly events: EventQueue,
    private readonly listener: NetworkListener,
    private readonly watched: number,
    private readonly serverScale: (fetch: number) => number,
  ) {
    const n = fetches.length;
    this.remaining = new Float64Array(n);
    this.awaited = new Float64Array(n);
    this.segment = new Float64Array(n);
    this.started = new Uint8Array(n);
    this.connectionOf = new Int32Array(n).fill(-1);
    this.priority = new Int8Array(n);
    for (let i = 0; i < n; i++) this.priority[i] = (fetches[i] as FetchNode).priority;
    this.downPerByte = 8 / Math.max(1, link.downKbps);
    this.upPerByte = 8 / Math.max(1, link.upKbps);
    this.half = link.rttMs / 2;
  }

  /** Time of the next packet that arrives or is acknowledged. */
  get next(): number {
    const arrive = this.head < this.tail ? this.at(this.head) : Infinity;
    const ack = this.acked < this.head ? this.at(this.acked) + this.half : Infinity;
    return Math.min(arrive, ack);
  }

  /** Handles the packet that `next` announced. */
  step(): void {
    const arrive = this.head < this.tail ? this.at(this.head) : Infinity;
    const ack = this.acked < this.head ? this.at(this.acked) + this.half : Infinity;
    if (arrive <= ack) this.arrive(this.head++, arrive);
    else this.acknowledge(this.acked++, ack);
  }

  /** Asks for a fetch: reuses, opens or waits for a connection. */
  request(id: number, now: number): void {
    const fetch = this.fetches[id] as FetchNode;
    const open = this.connections.filter((c) => c.origin === fetch.origin);
    if (fetch.protocol === 'h2') {
      const c = open[0];
      if (c?.ready) return this.send(c, id, now);
      this.wait(fetch.origin, id);
      if (!c) this.open(fetch, now);
      return;
    }
    const idle = open.find((c) => c.ready && c.busy === 0);
    if (idle) return this.send(idle, id, now);
    this.wait(fetch.origin, id);
    const pending = open.filter((c) => !c.ready).length;
    const queued = this.waiting.get(fetch.origin)?.length ?? 0;
    if (open.length < NETWORK.perOriginH1 && pending < queued) this.open(fetch, now);
  }

  /** Opens a connection ahead of need. */
  preconnect(origin: string, now: number): void {
    const sample = this.fetches.find((f) => f.origin === origin);
    if (sample && !this.connections.some((c) => c.origin === origin)) this.open(sample, now);
  }

  /** The server's part of the TLS handshake takes its place in the queue like everything else. */
  handshake(index: number, now: number): void {
    this.downFreeAt = Math.max(this.downFreeAt, now) + NETWORK.handshakeBytes * this.downPerByte;
    this.events.push(this.downFreeAt + this.half, CONNECTED, index);
  }

  connected(index: number, now: number): void {
    const c = this.connections[index] as Connection;
    c.ready = true;
    this.serve(c, now);
  }

  respond(id: number, now: number): void {
    const fetch = this.fetches[id] as FetchNode;
    const c = this.connections[this.connectionOf[id] as number] as Connection;
    this.remaining[id] = this.awaited[id] = Math.max(1, fetch.headerBytes + fetch.bodyBytes);
    this.segment[id] = Math.max(NETWORK.segmentBytes, (this.remaining[id] as number) / NETWORK.maxPackets);
    c.sending.push(id);
    this.pump(c, now);
  }

  private wait(origin: string, id: number): void {
    const list = this.waiting.get(origin);
    if (list) list.push(id);
    else this.waiting.set(origin, [id]);
  }

  private serve(c: Connection, now: number): void {
    const list = this.waiting.get(c.origin);
    while (list && list.length > 0 && (c.h2 || c.busy === 0)) {
      let best = 0;
      for (let i = 1; i < list.length; i++) {
        if ((this.priority[list[i] as number] as number) > (this.priority[list[best] as number] as number)) best = i;
      }
      const [id] = list.splice(best, 1);
      this.send(c, id as number, now);
    }
  }

  private open(fetch: FetchNode, now: number): void {
    const host = fetch.origin.replace(/^https?:\/\//, '').replace(/:\d+$/, '');
    let at = now;
    if (this.lookups && !this.lookedUp.has(host)) {
      this.lookedUp.add(host);
      at += this.link.rttMs;
    }
    at += this.link.rttMs + fetch.setupMs;
    const index = this.connections.length;
    this.connections.push({
      origin: fetch.origin,
      h2: fetch.protocol === 'h2',
      ready: false,
      window: NETWORK.initialWindow,
      inFlight: 0,
      slowStart: true,
      cutAt: -Infinity,
      windowAtLoss: 0,
      roundEndsAt: 0,
      lastSentAt: at,
      sending: [],
      turn: 0,
      busy: 0,
    });
    if (fetch.secure) this.events.push(at + this.half, HANDSHAKE, index);
    else this.events.push(at, CONNECTED, index);
  }

  private send(c: Connection, id: number, now: number): void {
    const fetch = this.fetches[id] as FetchNode;
    c.busy++;
    this.connectionOf[id] = this.connections.indexOf(c);
    this.listener.onSent(id, now);
    // Repeated headers shrink to a few bytes on HTTP/2 (RFC 7541).
    const bytes = c.h2 ? fetch.requestBytes * 0.35 : fetch.requestBytes;
    this.upFreeAt = Math.max(this.upFreeAt, now) + bytes * this.upPerByte;
    const ready = this.upFreeAt + this.half + fetch.serverMs * this.serverScale(id);
    this.events.push(ready, RESPOND, id);
  }

  /** Sends what window and data allow. */
  private pump(c: Connection, now: number): void {
    if (now - c.lastSentAt > this.link.rttMs + 200 && c.inFlight === 0) {
      c.window = Math.min(c.window, NETWORK.initialWindow);
      c.slowStart = true;
    }
    const connection = this.connectionOf[c.sending[0] ?? 0] as number;
    while (c.inFlight < c.window && c.sending.length > 0) {
      if (c.turn >= c.sending.length) c.turn = 0;
      const id = c.sending[c.turn] as number;
      const left = this.remaining[id] as number;
      const size = Math.min(this.segment[id] as number, left);
      this.remaining[id] = left - size;
      if (left - size <= 0) c.sending.splice(c.turn, 1);
      else c.turn++;
      const start = Math.max(now, this.downFreeAt);
      const queued = start - now;
      if (queued > NETWORK.queueMs) {
        this.lose(c, connection, id, size, now, queued);
        continue;
      }
      this.transmit(c, connection, id, size, now);
    }
  }

  private transmit(c: Connection, connection: number, id: number, size: number, now: number): void {
    this.downFreeAt = Math.max(now, this.downFreeAt) + (size + NETWORK.segmentOverhead) * this.downPerByte;
    this.put(this.downFreeAt + this.half, id, connection, size);
    c.inFlight++;
    c.lastSentAt = now;
  }

  /** A packet that finds the queue full is dropped: the window shrinks and the packet goes again a round trip later. */
  private lose(c: Connection, connection: number, id: number, size: number, now: number, queued: number): void {
    if (now - c.cutAt > this.link.rttMs + queued) {
      c.windowAtLoss = c.window;
      c.window = Math.max(2, c.window * NETWORK.lossFactor);
      c.slowStart = false;
      c.cutAt = now;
    }
    c.inFlight++;
    this.lost.push({ connection, id, size });
    this.events.push(now + this.link.rttMs + queued, RESEND, this.lost.length - 1);
  }

  /** Sends a lost packet again; it is not lost twice, which bounds the work on links of any kind. */
  resend(index: number, now: number): void {
    const packet = this.lost[index] as { connection: number; id: number; size: number };
    const c = this.connections[packet.connection] as Connection;
    c.inFlight--;
    this.transmit(c, packet.connection, packet.id, packet.size, now);
  }

  /** Congestion avoidance (CUBIC, RFC 9438): back to the window of the last loss, carefully around it, then on. */
  private grow(c: Connection, now: number): void {
    if (c.slowStart) {
      c.window += 1;
      return;
    }
    if (c.windowAtLoss === 0) {
      c.window += NETWORK.growthBeforeLoss;
      return;
    }
    const t = (now - c.cutAt) / 1000;
    const k = Math.cbrt((c.windowAtLoss * (1 - NETWORK.lossFactor)) / 0.4);
    const cubic = c.windowAtLoss + 0.4 * (t - k) ** 3;
    const friendly = c.windowAtLoss * NETWORK.lossFactor + (0.53 * t * 1000) / Math.max(1, this.link.rttMs);
    c.window += Math.max(0.01, Math.min(1, (Math.max(cubic, friendly) - c.window) / c.window));
  }

  private arrive(slot: number, now: number): void {
    const i = slot & (this.ring.at.length - 1);
    const id = this.ring.fetch[i] as number;
    const size = this.ring.size[i] as number;
    if (this.started[id] === 0) {
      this.started[id] = 1;
      this.listener.onFirstByte(id, now);
    }
    if (id === this.watched) this.listener.onBytes(id, size, now);
    const left = (this.awaited[id] as number) - size;
    this.awaited[id] = left;
    if (left <= 0) this.finish(id, now);
  }

  private finish(id: number, now: number): void {
    const c = this.connections[this.connectionOf[id] as number] as Connection;
    c.busy--;
    this.serve(c, now);
    this.listener.onDone(id, now);
  }

  private acknowledge(slot: number, now: number): void {
    const c = this.connections[this.ring.connection[slot & (this.ring.at.length - 1)] as number] as Connection;
    c.inFlight--;
    if (now >= c.roundEndsAt) {
      // HyStart looks at the first packets of a round: a burst's own tail does not count as a queue.
      const queued = Math.max(0, this.downFreeAt - now);
      const limit = Math.min(NETWORK.slowStartEndsMs, Math.max(4, this.link.rttMs / 8));
      if (c.roundEndsAt > 0 && queued > limit && c.window > 16) c.slowStart = false;
      c.roundEndsAt = now + this.link.rttMs + queued;
    }
    this.grow(c, now);
    if (c.sending.length > 0) this.pump(c, now);
  }

  private at(slot: number): number {
    return this.ring.at[slot & (this.ring.at.length - 1)] as number;
  }

  private put(at: number, fetch: number, connection: number, size: number): void {
    if (this.tail - this.acked === this.ring.at.length) this.growRing();
    const i = this.tail++ & (this.ring.at.length - 1);
    this.ring.at[i] = at;
    this.ring.fetch[i] = fetch;
    this.ring.connection[i] = connection;
    this.ring.size[i] = size;
  }

  private growRing(): void {
    const old = this.ring;
    const size = old.at.length * 2;
    const ring = {
      at: new Float64Array(size),
      fetch: new Int32Array(size),
      connection: new Int32Array(size),
      size: new Float64Array(size),
    };
    for (let s = this.acked; s < this.tail; s++) {
      const from = s & (old.at.length - 1);
      const to = s & (size - 1);
      ring.at[to] = old.at[from] as number;
      ring.fetch[to] = old.fetch[from] as number;
      ring.connection[to] = old.connection[from] as number;
      ring.size[to] = old.size[from] as number;
    }
    this.ring = ring;
  }
}
