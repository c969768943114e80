import { EventQueue } from './eventQueue';
import type { FetchNode, LoadGraph, Link, ScriptNode } from './graph';
import { CONNECTED, Network, RESPOND } from './network';
import { prepare, type Prepared } from './prepare';
import { CAUSES, criticalPath, type FetchTimes, type Replay, type Trace } from './replay';

/** Constants of the browser; see docs/load-model.md. */
export const BROWSER = {
  frameMs: 1000 / 60,
  /** From the end of a frame's main-thread work until it is on the screen. */
  presentMs: 8,
  /** Requests of low priority let out while the head is pending. */
  tightLimit: 2,
  /** From a tag's arrival until its request is out. */
  scanMs: 1,
  /** From the document's first bytes until the renderer has taken the page over, at factor 1. */
  commitMs: 26,
  /** How long a font may keep its text invisible (font-display: block). */
  fontBlockMs: 3000,
  maxParseSliceMs: 50,
} as const;

/** Changes to one re-enactment, for ranges. All default to 1. */
export interface Perturbation {
  readonly rtt: number;
  readonly rate: number;
  readonly cpu: number;
  readonly server: number;
  /** Seeds the order of arrivals. */
  readonly seed: number;
}

const TASK_END = 3;
const FRAME = 4;
const DISCOVER = 5;
const DIRTY = 6;
const COMMIT = 7;
const PARSE_TASK = 0;
const RUN_TASK = 1;
const FRAME_TASK = 2;
const DCL_TASK = 3;

const CAUSE = Object.fromEntries(CAUSES.map((c, i) => [c, i])) as Record<(typeof CAUSES)[number], number>;

/**
 * Re-enacts a load for one visitor. Deterministic: the same graph and link give the same answer
 * everywhere.
 */
export function simulate(graph: LoadGraph, link: Link, perturb?: Perturbation): Replay {
  return new Simulation(graph, link, perturb).run();
}

class Simulation {
  private readonly p: Prepared;
  private readonly events = new EventQueue();
  private readonly network: Network;
  private readonly n: number;
  private readonly cpu: number;
  // Fetches
  private readonly found: Float64Array;
  private readonly sent: Float64Array;
  private readonly first: Float64Array;
  private readonly done: Float64Array;
  private readonly causeKind: Uint8Array;
  private readonly causeId: Int32Array;
  private held: number[] = [];
  private inFlight = 0;
  // Document
  private received = 0;
  private scanAt = 0;
  private commitAt = Infinity;
  private parsedTo = 0;
  private stopAt = 0;
  private parsing = false;
  private parserDone = false;
  private documentDone = false;
  /** Script or body style that the parser stands at; -1 for none. */
  private waitingScript = -1;
  private waitingStyle = -1;
  private readonly wirePerByte: number;
  // Styles
  private readonly sheetPending: Int32Array;
  private readonly sheetLoaded: Uint8Array;
  private readonly styleMet: Uint8Array;
  private pendingBlocking = 0;
  // Scripts
  private readonly scriptStart: Float64Array;
  private readonly scriptEnd: Float64Array;
  private readonly scriptStyle: Int32Array;
  private readonly queuedScript: Uint8Array;
  private nextDeferred = 0;
  private dynamicPending = 0;
  // Main thread
  private tasks: number[] = [];
  private taskKind = -1;
  private taskArg = -1;
  private taskStart = 0;
  private parseTarget = 0;
  private longTaskMs = 0;
  // Frames
  private frameQueued = false;
  private dirty = true;
  private fcp = -1;
  private lcp = -1;
  private heroInFrame = false;
  private heroElementMs = -1;
  private gateMs = -1;
  private gateStyle = -1;
  private gateScript = -1;
  private dclQueued = false;
  private dcl = -1;
  private load = -1;
  private boosted = false;

  constructor(
    private readonly graph: LoadGraph,
    link: Link,
    perturb: Perturbation | undefined,
  ) {
    this.p = prepare(graph);
    const n = (this.n = graph.fetches.length);
    const times = () => new Float64Array(n).fill(-1);
    this.found = times();
    this.sent = times();
    this.first = times();
    this.done = times();
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
    const seed = perturb?.seed ?? 0;
    this.network = new Network(
      graph.fetches,
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
          this.commitAt = at + BROWSER.commitMs * Math.sqrt(this.cpu);
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
    );
  }

  run(): Replay {
    const entry = this.graph.fetches.find((f) => f.discovery.by === 'navigation')?.id ?? this.graph.document.fetch;
    this.discover(entry, 0, CAUSE.navigation, -1);
    for (let guard = 0; guard < 3; guard++) {
      this.drain();
      const left = this.graph.fetches.filter((f) => this.found[f.id] === -1 && f.discovery.by !== 'never');
      if (left.length === 0) break;
      // The recording has them, so something asked for them; the graph does not know what.
      const now = Math.max(this.events.time, this.load, 0);
      for (const f of left) if (f.discovery.by !== 'fetch') this.discover(f.id, now, CAUSE.event, -1);
    }
    return this.report();
  }

  private drain(): void {
    const { events, network } = this;
    for (;;) {
      const packet = network.next;
      if (packet <= events.next) {
        if (packet === Infinity) return;
        network.step();
        continue;
      }
      events.pop();
      const now = events.time;
      switch (events.kind) {
        case CONNECTED:
          network.connected(events.arg, now);
          break;
        case RESPOND:
          network.respond(events.arg, now);
          break;
        case TASK_END:
          this.endTask(now);
          break;
        case FRAME:
          this.enqueue(FRAME_TASK, 0, now);
          break;
        case DISCOVER: {
          const by = this.graph.fetches[events.arg]?.discovery.by;
          const kind =
            by === 'script' ? CAUSE.script : by === 'event' ? CAUSE.event : by === 'style' ? CAUSE.style : CAUSE.fetch;
          this.discover(events.arg, now, kind, this.causeId[events.arg] as number);
          break;
        }
        case COMMIT:
          this.documentGrew(now);
          break;
        case DIRTY:
          this.invalidate(now);
          break;
      }
    }
  }

  // --- Fetches

  private discover(id: number, now: number, cause: number, by: number): void {
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

  private release(id: number, now: number): void {
    this.inFlight++;
    this.network.request(id, now);
  }

  private releaseHeld(now: number): void {
    const loose = this.parsedTo >= this.graph.document.bodyOffset;
    while (this.held.length > 0 && (loose || this.inFlight < BROWSER.tightLimit)) {
      this.release(this.held.shift() as number, now);
    }
  }

  private onDone(id: number, now: number): void {
    this.inFlight--;
    this.arrived(id, now);
    this.releaseHeld(now);
  }

  private arrived(id: number, now: number): void {
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

  private later(id: number, at: number, cause: number): void {
    if (this.found[id] !== -1) return;
    this.causeId[id] = cause;
    this.events.push(at, DISCOVER, id);
  }

  // --- Document

  private get decoded(): number {
    return this.documentDone
      ? this.graph.document.decodedBytes
      : Math.min(this.graph.document.decodedBytes, this.received * this.wirePerByte);
  }

  private documentGrew(now: number): void {
    this.scan(now);
    this.wantParse(now);
  }

  private scan(now: number): void {
    const { scanned } = this.p;
    const upTo = this.decoded;
    while (this.scanAt < scanned.length) {
      const item = scanned[this.scanAt] as { offset: number; fetch: number };
      if (item.offset > upTo) break;
      this.scanAt++;
      this.discover(item.fetch, now + BROWSER.scanMs, CAUSE.document, -1);
    }
    for (const hint of this.graph.preconnects) if (hint.offset <= upTo) this.network.preconnect(hint.origin, now);
  }

  private wantParse(now: number): void {
    if (this.parsing || this.parserDone || this.waitingScript >= 0 || this.waitingStyle >= 0) return;
    if (this.decoded > this.parsedTo || this.documentDone) {
      this.parsing = true;
      this.enqueue(PARSE_TASK, 0, now);
    }
  }

  private get heroByParser(): boolean {
    return this.heroElementMs < 0 && this.graph.hero.builtBy < 0 && this.graph.hero.afterEvent === undefined;
  }

  private startParse(): number {
    const perByte = (this.graph.document.parseMs * this.cpu) / Math.max(1, this.graph.document.decodedBytes);
    const stop = this.p.stops[this.stopAt];
    let target = this.decoded;
    if (stop && stop.offset < target) target = stop.offset;
    if (perByte > 0) target = Math.min(target, this.parsedTo + BROWSER.maxParseSliceMs / perByte);
    this.parseTarget = Math.max(this.parsedTo, target);
    return (this.parseTarget - this.parsedTo) * perByte;
  }

  private endParse(now: number): void {
    this.parsing = false;
    const before = this.parsedTo;
    this.parsedTo = this.parseTarget;
    const body = this.graph.document.bodyOffset;
    if (before < body && this.parsedTo >= body) this.releaseHeld(now);
    if (this.heroByParser && this.parsedTo >= this.graph.hero.offset) this.heroElementMs = now;
    this.invalidate(now);
    this.atStops(now);
    this.wantParse(now);
  }

  /** Does what stands at the place the parser has come to. */
  private atStops(now: number): void {
    for (;;) {
      const stop = this.p.stops[this.stopAt];
      if (!stop || stop.offset > this.parsedTo) break;
      this.stopAt++;
      if (stop.kind === 'discover') this.discover(stop.id, now, CAUSE.document, -1);
      else if (stop.kind === 'style') {
        if (this.meetStyle(stop.id, now)) return;
      } else if (this.meetScript(stop.id, now)) return;
    }
    if (
      this.documentDone &&
      this.parsedTo >= this.graph.document.decodedBytes &&
      this.stopAt >= this.p.stops.length &&
      !this.parserDone
    ) {
      this.parserDone = true;
      if (this.heroByParser) this.heroElementMs = now;
      this.invalidate(now);
      this.runDeferred(now);
    }
  }

  // --- Styles

  /** True when the parser has to wait at it. */
  private meetStyle(index: number, now: number): boolean {
    const style = this.graph.styles[index];
    if (!style) return false;
    this.discover(style.fetch, now, CAUSE.document, -1);
    if (!style.blocking || this.styleMet[index]) return false;
    this.styleMet[index] = 1;
    if (this.sheetLoaded[this.sheetOf(index)]) return false;
    this.pendingBlocking++;
    if (style.inHead) return false;
    // A stylesheet in the body holds back what follows it.
    this.waitingStyle = index;
    return true;
  }

  private sheetOf(index: number): number {
    let id = (this.graph.styles[index] as { fetch: number }).fetch;
    for (let next = this.graph.fetches[id]?.redirectTo; next !== undefined; next = this.graph.fetches[id]?.redirectTo)
      id = next;
    return id;
  }

  private sheetPart(id: number, now: number): void {
    if (this.graph.fetches[id]?.redirectTo !== undefined) return;
    const left = (this.sheetPending[id] as number) - 1;
    this.sheetPending[id] = left;
    if (left > 0) return;
    this.sheetLoaded[id] = 1;
    const parent = this.p.importedBy[id] as number;
    if (parent >= 0) this.sheetPart(parent, now);
    const index = this.p.styleOfFetch[id] as number;
    if (index >= 0 && this.styleMet[index] === 1) {
      this.styleMet[index] = 2;
      this.pendingBlocking--;
      if (this.pendingBlocking === 0) {
        this.gateStyle = id;
        if (this.waitingScript >= 0) this.scriptStyle[this.waitingScript] = id;
      }
    }
    if (this.waitingStyle === index && index >= 0) {
      this.waitingStyle = -1;
      this.atStops(now);
    }
    this.tryWaitingScript(now);
    this.runDeferred(now);
    this.invalidate(now);
    this.wantParse(now);
  }

  // --- Scripts

  private meetScript(id: number, now: number): boolean {
    const script = this.graph.scripts[id] as ScriptNode;
    if (script.fetch >= 0) this.discover(script.fetch, now, CAUSE.document, -1);
    this.waitingScript = id;
    this.tryWaitingScript(now);
    return true;
  }

  private tryWaitingScript(now: number): void {
    const id = this.waitingScript;
    if (id < 0 || this.queuedScript[id]) return;
    const script = this.graph.scripts[id] as ScriptNode;
    if (this.pendingBlocking > 0 || !this.scriptHere(script)) return;
    this.queueScript(id, now);
  }

  private scriptHere(script: ScriptNode): boolean {
    if (script.fetch < 0) return true;
    let id = script.fetch;
    for (let next = this.graph.fetches[id]?.redirectTo; next !== undefined; next = this.graph.fetches[id]?.redirectTo)
      id = next;
    return this.done[id] !== -1;
  }

  private scriptArrived(id: number, now: number): void {
    const script = this.graph.scripts[id] as ScriptNode;
    // What arrives after the sheets did not wait for them.
    this.scriptStyle[id] = -1;
    if (script.mode === 'async' || script.mode === 'dynamic') this.queueScript(id, now);
    else if (script.mode === 'defer') this.runDeferred(now);
    else if (this.waitingScript === id) this.tryWaitingScript(now);
  }

  private queueScript(id: number, now: number): void {
    if (this.queuedScript[id]) return;
    this.queuedScript[id] = 1;
    this.dynamicPending++;
    this.enqueue(RUN_TASK, id, now);
  }

  private endScript(id: number, now: number): void {
    this.scriptEnd[id] = now;
    this.dynamicPending--;
    for (const fetch of this.p.afterScript[id] as readonly number[]) {
      const d = (this.graph.fetches[fetch] as FetchNode).discovery;
      this.later(fetch, now + (d.by === 'script' ? d.delayMs : 0), id);
    }
    if (this.graph.hero.builtBy === id) this.heroElementMs = now;
    if (this.waitingScript === id) {
      this.waitingScript = -1;
      if (this.parsedTo <= this.graph.document.bodyOffset) this.gateScript = id;
      this.atStops(now);
    }
    this.invalidate(now);
    this.wantParse(now);
    this.runDeferred(now);
    this.checkLoad(now);
  }

  private runDeferred(now: number): void {
    if (!this.parserDone || this.dclQueued) return;
    const { deferred } = this.p;
    const id = deferred[this.nextDeferred];
    if (id !== undefined) {
      if (this.queuedScript[id] && this.scriptEnd[id] === -1) return;
      if (this.scriptEnd[id] !== -1) {
        this.nextDeferred++;
        return this.runDeferred(now);
      }
      if (this.pendingBlocking === 0 && this.scriptHere(this.graph.scripts[id] as ScriptNode))
        this.queueScript(id, now);
      return;
    }
    this.dclQueued = true;
    this.enqueue(DCL_TASK, 0, now);
  }

  // --- Main thread

  private enqueue(kind: number, arg: number, now: number): void {
    this.tasks.push(kind, arg);
    if (this.taskKind < 0) this.startTask(now);
  }

  private startTask(now: number): void {
    if (this.tasks.length === 0) return;
    this.taskKind = this.tasks.shift() as number;
    this.taskArg = this.tasks.shift() as number;
    this.taskStart = now;
    let ms = 0;
    if (this.taskKind === PARSE_TASK) ms = this.startParse();
    else if (this.taskKind === RUN_TASK) {
      this.scriptStart[this.taskArg] = now;
      ms = (this.graph.scripts[this.taskArg] as ScriptNode).runMs * this.cpu;
    } else if (this.taskKind === FRAME_TASK) {
      ms = (this.fcp < 0 ? this.graph.firstFrameMs : this.graph.laterFrameMs) * this.cpu;
      this.heroInFrame = this.heroReady(now);
      this.dirty = false;
    }
    this.events.push(now + ms, TASK_END, 0);
  }

  private endTask(now: number): void {
    const kind = this.taskKind;
    const arg = this.taskArg;
    this.longTaskMs += Math.max(0, now - this.taskStart - 50);
    this.taskKind = -1;
    if (kind === PARSE_TASK) this.endParse(now);
    else if (kind === RUN_TASK) this.endScript(arg, now);
    else if (kind === FRAME_TASK) this.endFrame(now);
    else {
      this.dcl = now;
      this.fire('dcl', now);
      this.checkLoad(now);
    }
    if (this.taskKind < 0) this.startTask(now);
  }

  private fire(event: 'dcl' | 'load', now: number): void {
    if (this.graph.hero.afterEvent === event) {
      this.heroElementMs = now;
      this.invalidate(now);
    }
    for (const id of this.p.afterEvent[event]) {
      const d = (this.graph.fetches[id] as FetchNode).discovery;
      this.later(id, now + (d.by === 'event' ? d.delayMs : 0), -1);
    }
  }

  // --- Frames

  private get gateOpen(): boolean {
    return this.pendingBlocking === 0 && (this.parsedTo >= this.graph.document.contentOffset || this.parserDone);
  }

  private invalidate(now: number): void {
    this.dirty = true;
    if (!this.gateOpen) return;
    if (this.gateMs < 0) this.gateMs = now;
    if (this.frameQueued) return;
    this.frameQueued = true;
    this.events.push(Math.ceil((now + 0.01) / BROWSER.frameMs) * BROWSER.frameMs, FRAME, 0);
  }

  private heroReady(now: number): boolean {
    const { hero } = this.graph;
    if (this.heroElementMs < 0 || this.heroElementMs > now) return false;
    const file = this.p.heroFetch;
    if (file >= 0) {
      const done = this.done[file] as number;
      return done !== -1 && done + (this.graph.fetches[file] as FetchNode).decodeMs * Math.sqrt(this.cpu) <= now + 0.01;
    }
    if (hero.font < 0) return true;
    return (
      this.done[hero.font] !== -1 ||
      (this.found[hero.font] !== -1 && now - (this.found[hero.font] as number) >= BROWSER.fontBlockMs)
    );
  }

  private endFrame(now: number): void {
    this.frameQueued = false;
    if (!this.gateOpen) return;
    if (this.fcp < 0) this.fcp = now + BROWSER.presentMs;
    if (this.heroInFrame && this.lcp < 0) this.lcp = now + BROWSER.presentMs;
    for (const id of this.p.drawn) {
      if (this.found[id] !== -1) continue;
      const d = (this.graph.fetches[id] as FetchNode).discovery;
      if (d.by === 'layout' && d.offset <= this.parsedTo) this.discover(id, now, CAUSE.layout, -1);
      else if (d.by === 'style' && d.offset <= this.parsedTo && (d.sheet < 0 || this.sheetLoaded[d.sheet])) {
        this.discover(id, now, CAUSE.style, d.sheet);
      }
    }
    if (!this.boosted) {
      this.boosted = true;
      for (const f of this.graph.fetches) {
        if (f.inViewport && (this.network.priority[f.id] as number) < 3) this.network.priority[f.id] = 3;
      }
    }
    if (this.graph.hero.font >= 0 && this.lcp < 0 && this.found[this.graph.hero.font] !== -1) {
      this.events.push((this.found[this.graph.hero.font] as number) + BROWSER.fontBlockMs, DIRTY, 0);
    }
    if (this.dirty) this.invalidate(now);
  }

  private checkLoad(now: number): void {
    if (this.load >= 0 || this.dcl < 0 || this.dynamicPending > 0) return;
    for (let i = 0; i < this.n; i++) {
      if (this.found[i] !== -1 && this.done[i] === -1 && (this.graph.fetches[i] as FetchNode).holdsLoad) return;
    }
    this.load = now;
    this.fire('load', now);
  }

  // --- Report

  private report(): Replay {
    const { graph, p } = this;
    const doc = graph.document.fetch;
    const ttfb = Math.max(0, this.first[doc] as number);
    const end = Math.max(this.events.time, 0);
    const fcp = this.fcp >= 0 ? this.fcp : end;
    const lcp = Math.max(fcp, this.lcp >= 0 ? this.lcp : end);
    const hero = p.heroFetch;
    const ready = hero >= 0 ? (this.done[hero] as number) : this.heroElementMs;
    const trace: Trace = {
      found: this.found,
      sent: this.sent,
      first: this.first,
      done: this.done,
      causeKind: this.causeKind,
      causeId: this.causeId,
      scriptStart: this.scriptStart,
      scriptEnd: this.scriptEnd,
      gateScript: this.gateScript,
      gateStyle: this.gateStyle,
      gateMs: this.gateMs,
      dclMs: this.dcl,
      heroReadyMs: ready,
      heroElementMs: this.heroElementMs,
      scriptStyle: this.scriptStyle,
    };
    const foundHero = hero >= 0 ? Math.min(lcp, Math.max(ttfb, this.found[graph.hero.fetch] as number)) : ttfb;
    const doneHero = hero >= 0 ? Math.min(lcp, Math.max(foundHero, ready)) : ttfb;
    let bytes = 0;
    let requests = 0;
    for (const f of graph.fetches) {
      if (f.refused || this.found[f.id] === -1) continue;
      bytes += f.headerBytes + f.bodyBytes;
      requests++;
    }
    const lazy: { fetches?: FetchTimes[] } = {};
    const self = this;
    return {
      milestones: {
        ttfbMs: ttfb,
        fcpMs: fcp,
        lcpMs: lcp,
        dclMs: this.dcl,
        loadMs: this.load >= 0 ? this.load : end,
        bytes,
        requests,
        longTaskMs: this.longTaskMs,
      },
      split: {
        serverMs: ttfb,
        untilFoundMs: foundHero - ttfb,
        transferMs: doneHero - foundHero,
        untilPaintedMs: lcp - doneHero,
      },
      // Ranges need milestones only: node times are made when somebody asks.
      get fetches() {
        return (lazy.fetches ??= self.fetchTimes());
      },
      get scripts() {
        return Array.from(self.scriptStart, (startMs, i) => ({ startMs, endMs: self.scriptEnd[i] as number }));
      },
      get path() {
        return criticalPath(graph, trace, hero, lcp);
      },
      get heroPlace() {
        return self.placeOf(hero);
      },
    };
  }

  private fetchTimes(): FetchTimes[] {
    return this.graph.fetches.map((f) => ({
      foundMs: this.found[f.id] as number,
      sentMs: this.sent[f.id] as number,
      firstByteMs: this.first[f.id] as number,
      endMs: this.done[f.id] as number,
      cause: { kind: CAUSES[this.causeKind[f.id] as number] ?? 'navigation', id: this.causeId[f.id] as number },
    }));
  }

  private placeOf(hero: number): number {
    if (hero < 0) return 0;
    const at = this.found[this.graph.hero.fetch] as number;
    let place = 1;
    for (let i = 0; i < this.n; i++) {
      if (i === this.graph.hero.fetch || this.found[i] === -1) continue;
      if ((this.found[i] as number) < at || (this.found[i] === at && i < this.graph.hero.fetch)) place++;
    }
    return place;
  }
}

/** A number in [0, 1) from a seed and an index; the same everywhere. */
export function unit(seed: number, index: number): number {
  let x = (Math.imul(seed, 0x9e3779b1) ^ Math.imul(index + 1, 0x85ebca6b)) >>> 0;
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d) >>> 0;
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b) >>> 0;
  return ((x ^ (x >>> 16)) >>> 0) / 4294967296;
}
