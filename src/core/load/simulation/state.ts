import { BROWSER, COMMIT, unit, type Perturbation } from '../browser';
import { EventQueue } from '../eventQueue';
import type { FetchNode, Link, LoadGraph } from '../graph';
import { Network, NETWORK } from '../network';
import { Packets } from '../packets';
import { prepare, type Prepared } from '../prepare';

/** Buffers that one simulation leaves to the next. */
const spare: { events: EventQueue; packets: Packets }[] = [];

/**
 * Everything that changes while a load is simulated. The parts of the browser (fetching, parsing,
 * painting) build on it one after the other; what a lower part sets off in a higher one is abstract here.
 */
export abstract class LoadState {
  protected readonly p: Prepared;
  private readonly buffers = spare.pop() ?? { events: new EventQueue(), packets: new Packets() };
  protected readonly events = this.buffers.events;
  protected readonly network: Network;
  protected readonly n: number;
  protected readonly cpu: number;
  /** Of a draw; 0 for the simulation that nothing perturbs. */
  protected readonly seed: number;
  // Fetches
  protected readonly found: Float64Array;
  protected readonly sent: Float64Array;
  protected readonly first: Float64Array;
  protected readonly done: Float64Array;
  /** When the page has it: its main thread may have been busy. */
  protected readonly delivered: Float64Array;
  protected readonly causeKind: Uint8Array;
  protected readonly causeId: Int32Array;
  /** Held back while the head is pending, by priority. */
  protected readonly held: number[][] = [[], [], [], [], []];
  protected holds = 0;
  /** Requests of the page that are out, those of middle priority among them; 2 in `counted` for such a one, 1 for others. */
  protected out = 0;
  protected middleOut = 0;
  protected readonly counted: Uint8Array;
  /** 1 for what the load event has been told to wait for. */
  protected readonly holdsLoad: Uint8Array;
  // Document
  protected received = 0;
  protected scanAt = 0;
  protected commitAt = Infinity;
  protected parsedTo = 0;
  protected stopAt = 0;
  protected parsing = false;
  protected parserDone = false;
  protected documentDone = false;
  /** Script or body style that the parser stands at; -1 for none. */
  protected waitingScript = -1;
  protected waitingStyle = -1;
  /** Stylesheet of the body that the parser waited for last, and the one it had waited for when it came to the hero. */
  protected parserStyle = -1;
  protected heroStyle = -1;
  protected readonly wirePerByte: number;
  // Styles
  protected readonly sheetPending: Int32Array;
  protected readonly sheetLoaded: Uint8Array;
  protected readonly styleMet: Uint8Array;
  protected pendingBlocking = 0;
  // Scripts
  protected readonly scriptStart: Float64Array;
  protected readonly scriptEnd: Float64Array;
  protected readonly scriptStyle: Int32Array;
  protected readonly queuedScript: Uint8Array;
  protected nextDeferred = 0;
  /** A first frame is due, before which no deferred script runs. */
  protected drawFirst = false;
  protected dynamicPending = 0;
  // Main thread
  protected tasks: number[] = [];
  protected taskKind = -1;
  protected taskArg = -1;
  protected taskStart = 0;
  protected parseTarget = 0;
  protected longTaskMs = 0;
  // Frames
  protected frameQueued = false;
  protected dirty = true;
  protected fcp = -1;
  protected lcp = -1;
  protected heroInFrame = false;
  /** Pictures drawn already; millions of points that are new in this frame; until when drawing is busy. */
  protected readonly painted: Uint8Array;
  protected newPictures = 0;
  protected drawnUntil = 0;
  protected heroElementMs = -1;
  protected gateMs = -1;
  protected gateStyle = -1;
  protected gateScript = -1;
  protected dclQueued = false;
  protected dcl = -1;
  protected load = -1;
  /** Active fetches that delay the load event. */
  protected holding = 0;
  /** Of those that layout has to find, how many it has not. */
  protected undrawn: number;

  constructor(
    protected readonly graph: LoadGraph,
    link: Link,
    perturb: Perturbation | undefined,
  ) {
    this.p = prepare(graph);
    this.undrawn = this.p.drawn.length;
    const n = (this.n = graph.fetches.length);
    const times = () => new Float64Array(n).fill(-1);
    this.found = times();
    this.sent = times();
    this.first = times();
    this.done = times();
    this.delivered = times();
    this.counted = new Uint8Array(n);
    this.holdsLoad = new Uint8Array(n);
    this.painted = new Uint8Array(n);
    this.causeKind = new Uint8Array(n);
    this.causeId = new Int32Array(n).fill(-1);
    this.sheetPending = new Int32Array(n);
    this.sheetLoaded = new Uint8Array(n);
    for (let i = 0; i < n; i++) this.sheetPending[i] = 1 + (this.p.imports[i] as readonly number[]).length;
    this.styleMet = new Uint8Array(graph.styles.length);
    const m = graph.scripts.length;
    this.scriptStart = new Float64Array(m).fill(-1);
    this.scriptEnd = new Float64Array(m).fill(-1);
    this.scriptStyle = new Int32Array(m).fill(-1);
    this.queuedScript = new Uint8Array(m);
    this.cpu = link.cpuFactor * (perturb?.cpu ?? 1);
    const doc = graph.fetches[graph.document.fetch] as FetchNode;
    this.wirePerByte = graph.document.decodedBytes / Math.max(1, doc.headerBytes + doc.bodyBytes);
    const actual: Link = {
      ...link,
      rttMs: link.rttMs * (perturb?.rtt ?? 1),
      downKbps: link.downKbps * (perturb?.rate ?? 1),
      upKbps: link.upKbps * (perturb?.rate ?? 1),
    };
    const server = perturb?.server ?? 1;
    const seed = (this.seed = perturb?.seed ?? 0);
    this.network = new Network(
      graph.fetches,
      this.p.pools,
      this.p.poolOf,
      actual,
      graph.lookups,
      this.events,
      {
        onSent: (id, at) => {
          this.sent[id] = at;
        },
        onFirstByte: (id, at) => {
          this.first[id] = at;
          if (id !== graph.document.fetch) return;
          this.commitAt = at + BROWSER.commitFixedMs + BROWSER.commitMs * this.cpu;
          this.events.push(this.commitAt, COMMIT, 0);
        },
        onBytes: (_id, bytes, at) => {
          this.received += bytes;
          if (at >= this.commitAt) this.documentGrew(at);
        },
        onDone: (id, at) => this.onDone(id, at),
      },
      graph.document.fetch,
      seed === 0 ? () => server : (id) => server * (0.85 + 0.3 * unit(seed, id)),
      perturb ? NETWORK.perPacketInDraws : NETWORK.perPacket,
      this.buffers.packets,
    );
  }

  /** At the end: nothing may be pushed any more. */
  protected release(): void {
    this.buffers.events.clear();
    this.buffers.packets.clear();
    spare.push(this.buffers);
  }

  protected abstract get gateOpen(): boolean;
  protected abstract onDone(id: number, now: number): void;
  protected abstract documentGrew(now: number): void;
  protected abstract sheetPart(id: number, now: number): void;
  protected abstract scriptArrived(id: number, now: number): void;
  protected abstract invalidate(now: number): void;
  protected abstract checkLoad(now: number): void;
  protected abstract enqueue(kind: number, arg: number, now: number): void;
}
