import { CONNECTED, GO_ON, HAND_OVER, HANDSHAKE, HINTS, RESEND, RESPOND } from './browser';
import { acknowledged, lost } from './congestion';
import { newConnection, type Connection } from './connection';
import { type EventQueue } from './eventQueue';
import type { FetchNode, Link } from './graph';
import { NETWORK } from './networkConstants';
import { Packets } from './packets';
import type { Pool } from './pools';
import { RequestOrder } from './requestOrder';
import type { Stream } from './streamScheduler';

/**
 * The network of one visitor, packet by packet: connection setup, slow start, and one bottleneck
 * that all connections share first come, first served. Follows TCP (RFC 9293), TLS 1.3 (RFC 8446: one round
 * trip), six connections an origin on HTTP/1.1, one on HTTP/2 (RFC 9113), whose streams take turns.
 */

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

/** Answers that the browser asks to be sent along with others of their urgency (RFC 9218, 4.2: incremental). */
const SHARES: ReadonlySet<FetchNode['kind']> = new Set(['image', 'document', 'frame', 'data', 'media']);

const segmentsOf = (bytes: number) => Math.ceil(bytes / NETWORK.segmentBytes);

/** One simulated network; driven by `advance` between the events of the queue. */
export class Network {
  private readonly connections: Connection[] = [];
  /** Connections and waiting fetches of each pool. */
  private readonly open: Connection[][];
  private readonly waiting: number[][];
  /** When the name of a host is known. */
  private readonly lookedUp = new Map<string, number>();
  /** Bytes that have still to arrive. */
  private readonly awaited: Float64Array;
  /** Bytes that have arrived of a record that is not there as a whole. */
  private readonly unread: Float64Array;
  /** Bytes that its server has still to have ready. */
  private readonly unready: Float64Array;
  /** Bytes of a packet: a segment; more for very large files, whose every packet makes no difference. */
  private readonly segment: Float64Array;
  private readonly started: Uint8Array;
  private readonly connectionOf: Int32Array;
  private readonly order: RequestOrder;
  /** Priority when it was asked for, which is what a server hears of. */
  private readonly asked: Int8Array;
  /** 1 for requests that went out at the same moment as others of their connection. */
  private readonly together: Uint8Array;
  /** Pauses after which servers have gone on, by fetch. */
  private readonly wentOn = new Map<number, number>();
  private readonly dropped: { connection: Connection; id: number; size: number; packet: number }[] = [];
  private downFreeAt = 0;
  private upFreeAt = 0;
  private hellosUntil = 0;
  private handshakesUntil = 0;
  private readonly downPerByte: number;
  private readonly upPerByte: number;
  private readonly half: number;

  constructor(
    private readonly fetches: readonly FetchNode[],
    private readonly pools: readonly Pool[],
    private readonly poolOf: Int32Array,
    private readonly link: Link,
    private readonly lookups: boolean,
    private readonly events: EventQueue,
    private readonly listener: NetworkListener,
    private readonly watched: number,
    private readonly serverScale: (fetch: number) => number,
    private readonly perPacket = NETWORK.perPacket,
    private readonly packets = new Packets(),
  ) {
    const n = fetches.length;
    this.awaited = new Float64Array(n);
    this.unread = new Float64Array(n);
    this.unready = new Float64Array(n);
    this.segment = new Float64Array(n);
    this.started = new Uint8Array(n);
    this.connectionOf = new Int32Array(n).fill(-1);
    this.asked = new Int8Array(n);
    this.together = new Uint8Array(n);
    this.order = new RequestOrder(fetches);
    this.open = pools.map(() => []);
    this.waiting = pools.map(() => []);
    this.downPerByte = 8 / Math.max(1, link.downKbps);
    this.upPerByte = 8 / Math.max(1, link.upKbps);
    this.half = link.rttMs / 2;
  }

  /** Handles packets that arrive or are acknowledged no later than the next event. */
  advance(events: EventQueue): void {
    const { packets } = this;
    for (;;) {
      const arrive = packets.nextArrival;
      const ack = packets.nextAcknowledged + this.half;
      const at = arrive <= ack ? arrive : ack;
      if (at === Infinity || at > events.next) return;
      if (arrive <= ack) this.arrive(packets.arrive(), arrive);
      else this.acknowledge(packets.acknowledge(), ack);
    }
  }

  /** Asks for a fetch: reuses, opens or waits for a connection. */
  request(id: number, now: number): void {
    const pool = this.poolOf[id] as number;
    const open = this.open[pool] as Connection[];
    const waiting = this.waiting[pool] as number[];
    if ((this.pools[pool] as Pool).h2) {
      const c = open[0];
      if (c?.ready) return this.send(c, id, now);
      waiting.push(id);
      if (!c) this.connect(pool, now);
      return;
    }
    if (!this.order.letOut(id)) return;
    for (const c of open) if (c.ready && c.busy === 0) return this.send(c, id, now);
    waiting.push(id);
    let pending = 0;
    for (const c of open) if (!c.ready) pending++;
    if (open.length < NETWORK.perOriginH1 && pending < waiting.length) this.connect(pool, now);
  }

  /** Priority of each fetch as it stands now. */
  get priority(): Int8Array {
    return this.order.priority;
  }

  /** Makes a request more urgent; of several that wait, it comes behind those that were as urgent before. */
  raise(id: number, priority: number, place: number, now: number): void {
    const next = this.order.raise(id, priority, place);
    if (next >= 0) this.request(next, now);
  }

  /**
   * Opens a second connection beside the one of a navigation on HTTP/1.1: browsers do, for what the page asks its own host
   * for first. On HTTP/2 it is given up when the first is there.
   */
  openSecond(id: number, now: number): void {
    const pool = this.poolOf[id] as number;
    if (!(this.pools[pool] as Pool).h2) this.connect(pool, now);
  }

  /** Opens a connection ahead of need. */
  preconnect(pool: number, now: number): void {
    if ((this.open[pool] as Connection[]).length === 0) this.connect(pool, now);
  }

  /** The server's part of the TLS handshake takes its place in the queue like everything else. */
  handshake(index: number, now: number): void {
    this.downFreeAt = Math.max(this.downFreeAt, now) + NETWORK.handshakeBytes * this.downPerByte;
    // One processor computes all handshakes, one after the other.
    this.handshakesUntil = Math.max(this.handshakesUntil, this.downFreeAt + this.half) + NETWORK.handshakeMs;
    this.events.push(this.handshakesUntil, CONNECTED, index);
  }

  connected(index: number, now: number): void {
    const c = this.connections[index] as Connection;
    c.ready = true;
    // What the server sent for the handshake has been acknowledged by now.
    if ((this.pools[c.pool] as Pool).secure) c.window.segments += segmentsOf(NETWORK.handshakeBytes);
    this.serve(c, now);
  }

  respond(id: number, now: number): void {
    const fetch = this.fetches[id] as FetchNode;
    const c = this.connections[this.connectionOf[id] as number] as Connection;
    const bytes = Math.max(1, fetch.headerBytes + fetch.bodyBytes);
    this.awaited[id] = bytes;
    this.segment[id] = Math.max(NETWORK.segmentBytes * this.perPacket, bytes / NETWORK.maxPackets);
    const { pauses = [] } = fetch;
    const [first] = pauses;
    const ready = first ? fetch.headerBytes + first.share * fetch.bodyBytes : bytes;
    this.unready[id] = bytes - ready;
    c.sending.add(this.streamOf(c, id, ready));
    for (const { ms } of pauses) this.events.push(now + ms * this.serverScale(id), GO_ON, id);
    if (this.together[id] === 0) return this.pump(c, now);
    if (c.handsOver) return;
    c.handsOver = true;
    this.events.push(now + NETWORK.togetherMs, HAND_OVER, c.index);
  }

  /** A server that had paused goes on with the next part of the body. */
  goOn(id: number, now: number): void {
    const { pauses = [], bodyBytes } = this.fetches[id] as FetchNode;
    const c = this.connections[this.connectionOf[id] as number] as Connection;
    const at = this.wentOn.get(id) ?? 0;
    this.wentOn.set(id, at + 1);
    const part = (pauses[at + 1]?.share ?? 1) - (pauses[at]?.share ?? 1);
    this.unready[id] = (this.unready[id] as number) - part * bodyBytes;
    c.sending.extend(this.streamOf(c, id, part * bodyBytes));
    this.pump(c, now);
  }

  /** Bytes of a response that its server has ready. */
  private streamOf(c: Connection, id: number, bytes: number): Stream {
    return {
      id,
      left: bytes,
      turn: c.h2 ? Math.max(NETWORK.turnBytes, bytes / NETWORK.maxPackets) : bytes,
      level: this.asked[id] as number,
      shares: SHARES.has((this.fetches[id] as FetchNode).kind),
    };
  }

  /** A server that answers several requests of one moment hands over what it has by then, in turns. */
  handOverSoon(index: number, now: number): void {
    const c = this.connections[index] as Connection;
    c.handsOver = false;
    this.pump(c, now);
  }

  private serve(c: Connection, now: number): void {
    const list = this.waiting[c.pool] as number[];
    if (list.length === 0) return;
    if (c.h2) {
      // All of them go, the most urgent first, and alike ones in their order.
      this.waiting[c.pool] = [];
      list.sort((a, b) => (this.priority[b] as number) - (this.priority[a] as number));
      for (const id of list) this.send(c, id, now);
      return;
    }
    while (list.length > 0 && c.busy === 0) {
      const id = this.order.takeFirst(list);
      this.send(c, id, now);
    }
  }

  private connect(index: number, now: number): void {
    const pool = this.pools[index] as Pool;
    let at = now;
    if (this.lookups) {
      // Connections that are asked for meanwhile wait for the same answer.
      const known = this.lookedUp.get(pool.host) ?? now + this.link.rttMs;
      this.lookedUp.set(pool.host, known);
      at = Math.max(now, known);
    }
    at += this.link.rttMs + pool.setupMs;
    const c = newConnection(this.connections.length, index, pool);
    this.connections.push(c);
    (this.open[index] as Connection[]).push(c);
    if (pool.secure) {
      this.hellosUntil = Math.max(this.hellosUntil, at) + NETWORK.helloBytes * this.upPerByte;
      this.events.push(this.hellosUntil + this.half, HANDSHAKE, c.index);
    } else this.events.push(at, CONNECTED, c.index);
  }

  private send(c: Connection, id: number, now: number): void {
    const fetch = this.fetches[id] as FetchNode;
    c.busy++;
    this.connectionOf[id] = c.index;
    this.asked[id] = this.priority[id] as number;
    const remains = c.lastAsked < 0 ? NETWORK.firstHeaders : NETWORK.laterHeaders;
    if (c.h2 && c.lastAskedAt === now) this.together[id] = this.together[c.lastAsked] = 1;
    c.lastAsked = id;
    c.lastAskedAt = now;
    this.listener.onSent(id, now);
    const bytes = c.h2 ? fetch.requestBytes * remains : fetch.requestBytes;
    this.upFreeAt = Math.max(this.upFreeAt, now) + bytes * this.upPerByte;
    const thinkMs = fetch.serverMs * this.serverScale(id);
    this.events.push(this.upFreeAt + this.half + thinkMs, RESPOND, id);
    // Some bytes of a few headers, on a link that nothing else uses yet.
    if (fetch.hintsMs !== undefined && c.h2)
      this.events.push(this.upFreeAt + this.link.rttMs + Math.min(thinkMs, fetch.hintsMs), HINTS, id);
  }

  /** Hands over what the server keeps ready, and sends what the window allows. */
  private pump(c: Connection, now: number): void {
    for (;;) {
      while (c.sending.size > 0 && c.unsent < NETWORK.unsentBytes) this.handOver(c);
      const piece = c.handed[0];
      if (!piece || c.inFlight >= c.window.segments) return;
      const size = Math.min(this.segment[piece.id] as number, piece.left);
      piece.left -= size;
      c.unsent -= size;
      if (piece.left <= 0) c.handed.shift();
      const queued = this.downFreeAt - now;
      c.inFlight += segmentsOf(size);
      const packet = c.packets++;
      if (queued > NETWORK.queueMs) {
        // A packet that finds the queue full is dropped, and goes again a round trip later.
        lost(c.window, now, this.link.rttMs, queued);
        this.dropped.push({ connection: c, id: piece.id, size, packet });
        this.events.push(now + this.link.rttMs + queued, RESEND, this.dropped.length - 1);
      } else this.transmit(c, piece.id, size, packet, now);
    }
  }

  private handOver(c: Connection): void {
    const turn = c.sending.hand();
    if (!turn) return;
    c.unsent += turn.bytes;
    const last = c.handed.at(-1);
    if (last?.id === turn.id) last.left += turn.bytes;
    else c.handed.push({ id: turn.id, left: turn.bytes });
  }

  private transmit(c: Connection, id: number, size: number, packet: number, now: number): void {
    const queued = Math.max(0, this.downFreeAt - now);
    this.downFreeAt =
      Math.max(now, this.downFreeAt) + (size + segmentsOf(size) * NETWORK.segmentOverhead) * this.downPerByte;
    const { packets } = this;
    const i = packets.send(this.downFreeAt + this.half);
    packets.fetch[i] = id;
    packets.connection[i] = c.index;
    packets.size[i] = size;
    packets.packet[i] = packet;
    packets.delay[i] = queued;
  }

  /** Sends a lost packet again; it is not lost twice, which bounds the work on links of any kind. */
  resend(index: number, now: number): void {
    const { connection, id, size, packet } = this.dropped[index] as (typeof this.dropped)[number];
    this.transmit(connection, id, size, packet, now);
  }

  /** In order (RFC 9293, 3.10): what comes behind a lost packet is kept until that has come again. */
  private arrive(slot: number, now: number): void {
    const { packets } = this;
    const c = this.connections[packets.connection[slot] as number] as Connection;
    const packet = packets.packet[slot] as number;
    const id = packets.fetch[slot] as number;
    const size = packets.size[slot] as number;
    if (packet !== c.expected) {
      (c.early ??= new Map()).set(packet, { id, size });
      return;
    }
    c.expected++;
    this.receive(c, id, size, now);
    const { early } = c;
    if (!early || early.size === 0) return;
    for (let next = early.get(c.expected); next; next = early.get(c.expected)) {
      early.delete(c.expected++);
      this.receive(c, next.id, next.size, now);
    }
  }

  private receive(c: Connection, id: number, size: number, now: number): void {
    const left = (this.awaited[id] as number) - size;
    this.awaited[id] = left;
    const unread = (this.unread[id] as number) + size;
    this.unread[id] = unread;
    const whole = unread >= NETWORK.recordBytes || left <= (this.unready[id] as number) + 0.5;
    if (whole || !(this.pools[c.pool] as Pool).secure) this.read(id, unread, now);
    if (left <= 0.5) {
      c.busy--;
      this.serve(c, now);
      const next = this.order.ended(id);
      if (next >= 0) this.request(next, now);
      this.listener.onDone(id, now);
    }
  }

  /** The browser can read what has arrived. */
  private read(id: number, bytes: number, now: number): void {
    this.unread[id] = 0;
    if (this.started[id] === 0) {
      this.started[id] = 1;
      this.listener.onFirstByte(id, now);
    }
    if (id === this.watched) this.listener.onBytes(id, bytes, now);
  }

  private acknowledge(slot: number, now: number): void {
    const { packets } = this;
    const c = this.connections[packets.connection[slot] as number] as Connection;
    const limited = c.inFlight * 2 >= c.window.segments;
    const segments = segmentsOf(packets.size[slot] as number);
    c.inFlight -= segments;
    acknowledged(
      c.window,
      now,
      this.link.rttMs,
      segments,
      packets.packet[slot] as number,
      c.packets,
      packets.delay[slot] as number,
      limited,
    );
    if (c.handed.length > 0 || c.sending.size > 0) this.pump(c, now);
  }
}
