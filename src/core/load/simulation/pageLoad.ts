import {
  BROWSER,
  CALL,
  CAUSE,
  COMMIT,
  CONNECTED,
  DIRTY,
  DISCOVER,
  FRAME,
  GO_ON,
  HAND_OVER,
  HANDSHAKE,
  HINTS,
  REQUEST,
  RESEND,
  RESPOND,
  TASK_END,
  unit,
  type Perturbation,
} from '../browser';
import { EventQueue } from '../eventQueue';
import type { Link, LoadGraph } from '../graph';
import { Network } from '../network';
import { NETWORK } from '../networkConstants';
import { Packets } from '../packets';
import { prepare } from '../prepare';
import { Fetches } from './fetches';
import { Frames } from './frames';
import { MainThread } from './mainThread';
import { Moments } from './moments';
import { Parser } from './parser';
import { Scripts } from './scripts';
import type { Shared } from './shared';
import { Styles } from './styles';

/** Buffers that one simulation leaves to the next. */
const spare: { queue: EventQueue; packets: Packets }[] = [];

/** One load while it is simulated: the parts of a browser, each with its own state, and the events between them. */
export class PageLoad {
  readonly shared: Shared;
  readonly fetches: Fetches;
  readonly parser: Parser;
  readonly styles: Styles;
  readonly scripts: Scripts;
  readonly frames: Frames;
  readonly moments: Moments;
  readonly thread: MainThread;
  private readonly buffers = spare.pop() ?? { queue: new EventQueue(), packets: new Packets() };

  constructor(graph: LoadGraph, link: Link, perturb: Perturbation | undefined) {
    const p = prepare(graph);
    const { queue, packets } = this.buffers;
    const server = perturb?.server ?? 1;
    const seed = perturb?.seed ?? 0;
    const network = new Network(
      graph.fetches,
      p.pools,
      p.poolOf,
      {
        ...link,
        rttMs: link.rttMs * (perturb?.rtt ?? 1),
        downKbps: link.downKbps * (perturb?.rate ?? 1),
        upKbps: link.upKbps * (perturb?.rate ?? 1),
      },
      graph.lookups,
      queue,
      {
        onSent: (id, at) => {
          this.fetches.sent[id] = at;
        },
        onFirstByte: (id, at) => {
          this.fetches.first[id] = at;
          if (id === graph.document.fetch) this.parser.firstByte(at);
        },
        onBytes: (_id, bytes, at) => this.parser.bytesArrived(bytes, at),
        onDone: (id, at) => this.fetches.responded(id, at),
      },
      graph.document.fetch,
      seed === 0 ? () => server : (id) => server * (0.85 + 0.3 * unit(seed, id)),
      perturb ? NETWORK.perPacketInDraws : NETWORK.perPacket,
      packets,
    );
    const cpu = link.cpuFactor * (perturb?.cpu ?? 1);
    const shared: Shared = { graph, p, cpu, work: cpu * BROWSER.clockFactor, seed, queue, network };
    this.shared = shared;
    this.fetches = new Fetches(shared, this);
    this.parser = new Parser(shared, this);
    this.styles = new Styles(shared, this);
    this.scripts = new Scripts(shared, this);
    this.frames = new Frames(shared, this);
    this.moments = new Moments(shared, this);
    // In the order of the numbers of tasks (browser.ts).
    this.thread = new MainThread(queue, [
      this.parser.task,
      this.scripts.task,
      this.frames.task,
      this.moments.domContentLoaded,
      this.fetches.delivering,
      this.fetches.requesting,
    ]);
  }

  /** Simulates the whole load. */
  run(): void {
    const { graph, queue, network } = this.shared;
    const { fetches, moments } = this;
    const entry = graph.fetches.find((f) => f.discovery.by === 'navigation')?.id ?? graph.document.fetch;
    fetches.discover(entry, 0, CAUSE.navigation, -1);
    network.openSecond(entry, 0);
    for (let guard = 0; guard < 3; guard++) {
      this.drain();
      const left = graph.fetches.filter((f) => fetches.found[f.id] === -1 && f.discovery.by !== 'never');
      if (left.length === 0) break;
      // The recording has them, so something asked for them; the graph does not know what.
      const now = Math.max(queue.time, moments.load, 0);
      for (const f of left) if (f.discovery.by !== 'fetch') fetches.discover(f.id, now, CAUSE.event, -1);
    }
  }

  private drain(): void {
    const { queue, network } = this.shared;
    for (;;) {
      network.advance(queue);
      if (queue.length === 0) return;
      queue.pop();
      this.handle(queue.kind, queue.arg, queue.time);
    }
  }

  private handle(kind: number, arg: number, now: number): void {
    const { network } = this.shared;
    switch (kind) {
      case CONNECTED:
        return network.connected(arg, now);
      case RESPOND:
        return network.respond(arg, now);
      case HAND_OVER:
        return network.handOverSoon(arg, now);
      case GO_ON:
        return network.goOn(arg, now);
      case HINTS:
        return this.fetches.hinted(now);
      case HANDSHAKE:
        return network.handshake(arg, now);
      case RESEND:
        return network.resend(arg, now);
      case TASK_END:
        return this.thread.end(now);
      case FRAME:
        return this.frames.due(now);
      case DISCOVER:
        return this.fetches.discover(arg, now, this.causeOf(arg), this.fetches.causeId[arg] as number);
      case REQUEST:
        return network.request(arg, now);
      case CALL:
        return this.scripts.queue(arg, now);
      case COMMIT:
        return this.parser.grew(now);
      case DIRTY:
        return this.frames.invalidate(now);
    }
  }

  private causeOf(fetch: number): number {
    const by = this.shared.graph.fetches[fetch]?.discovery.by;
    return by === 'script' ? CAUSE.script : by === 'event' ? CAUSE.event : by === 'style' ? CAUSE.style : CAUSE.fetch;
  }

  /** At the end: nothing may be pushed any more. */
  release(): void {
    this.buffers.queue.clear();
    this.buffers.packets.clear();
    spare.push(this.buffers);
  }
}
