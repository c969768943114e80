import { BROWSER, CAUSE, COMMIT, PARSE_TASK } from '../browser';
import type { FetchNode } from '../graph';
import type { Fetches } from './fetches';
import type { Frames } from './frames';
import type { MainThread, TaskKind } from './mainThread';
import type { Scripts } from './scripts';
import type { Shared } from './shared';
import type { Styles } from './styles';

interface Needs {
  readonly thread: Pick<MainThread, 'enqueue'>;
  readonly fetches: Pick<Fetches, 'discover' | 'releaseHeld'>;
  readonly styles: Pick<Styles, 'meet'>;
  readonly scripts: Pick<Scripts, 'meet' | 'waiting' | 'runDeferred'>;
  readonly frames: Pick<Frames, 'invalidate' | 'heroElementMs' | 'queued'>;
}

/** The document as a stream: scanner and parser (HTML, 13.2). */
export class Parser {
  /** How far the document is parsed, in decoded bytes. */
  parsedTo = 0;
  /** The whole document is parsed. */
  done = false;
  /** Stylesheet of the body that the parser stands at; -1 for none. */
  waitingStyle = -1;
  /** Stylesheet of the body that the parser had waited for when it came to the hero. */
  heroStyle = -1;
  /** The one that it waited for last. */
  private lastStyle = -1;
  private received = 0;
  private scanAt = 0;
  private commitAt = Infinity;
  private stopAt = 0;
  private parsing = false;
  private documentDone = false;
  private target = 0;
  /** How often the parser has let others in although there was more to parse. */
  private turns = 0;
  /** It has just let others in: a frame that is due goes first. */
  private yielding = false;
  private readonly wirePerByte: number;

  constructor(
    private readonly shared: Shared,
    private readonly page: Needs,
  ) {
    const { graph } = shared;
    const doc = graph.fetches[graph.document.fetch] as FetchNode;
    this.wirePerByte = graph.document.decodedBytes / Math.max(1, doc.headerBytes + doc.bodyBytes);
  }

  readonly task: TaskKind = { begin: () => this.begin(), end: (_, now) => this.end(now) };

  /** The parser has not reached the body: few requests of low priority are out at a time. */
  get inHead(): boolean {
    return this.parsedTo < this.shared.graph.document.bodyOffset;
  }

  private get decoded(): number {
    const { decodedBytes } = this.shared.graph.document;
    return this.documentDone ? decodedBytes : Math.min(decodedBytes, this.received * this.wirePerByte);
  }

  /** The document's first byte is there: the renderer takes the page over. */
  firstByte(at: number): void {
    this.commitAt = at + BROWSER.commitFixedMs + BROWSER.commitMs * this.shared.cpu;
    this.shared.queue.push(this.commitAt, COMMIT, 0);
  }

  bytesArrived(bytes: number, at: number): void {
    this.received += bytes;
    if (at >= this.commitAt) this.grew(at);
  }

  documentArrived(now: number): void {
    this.documentDone = true;
    this.received = Infinity;
    if (now >= this.commitAt) this.grew(now);
  }

  /** There is more to scan and to parse. */
  grew(now: number): void {
    this.scan(now);
    this.wantParse(now);
  }

  private scan(now: number): void {
    const { p, graph, network } = this.shared;
    const upTo = this.decoded;
    while (this.scanAt < p.scanned.length) {
      const item = p.scanned[this.scanAt] as { offset: number; fetch: number };
      if (item.offset > upTo) break;
      this.scanAt++;
      this.page.fetches.discover(item.fetch, now, CAUSE.document, -1);
    }
    graph.preconnects.forEach((hint, i) => {
      const pool = p.hinted[i] as number;
      if (hint.offset <= upTo && pool >= 0) network.preconnect(pool, now);
    });
  }

  wantParse(now: number): void {
    if (this.parsing || this.done || this.page.scripts.waiting >= 0 || this.waitingStyle >= 0) return;
    if (this.yielding && this.page.frames.queued) return;
    if (this.decoded > this.parsedTo || this.documentDone) {
      this.parsing = true;
      this.page.thread.enqueue(PARSE_TASK, 0, now);
    }
  }

  private begin(): number {
    const { document } = this.shared.graph;
    const perByte = (document.parseMs * this.shared.work) / Math.max(1, document.decodedBytes);
    const stop = this.shared.p.stops[this.stopAt];
    let target = this.decoded;
    if (stop && stop.offset < target) target = stop.offset;
    this.yielding = false;
    if (perByte > 0) {
      const turnMs = this.turns < BROWSER.firstParseTurns ? BROWSER.firstParseTurnMs : BROWSER.parseTurnMs;
      const most = this.parsedTo + Math.max(turnMs / perByte, document.decodedBytes / BROWSER.maxParseTurns);
      if (most < target) {
        target = most;
        this.turns++;
        this.yielding = true;
      }
    }
    this.target = Math.max(this.parsedTo, target);
    const start = this.parsedTo === 0 ? BROWSER.parserStartFixedMs + BROWSER.parserStartMs * this.shared.cpu : 0;
    return start + (this.target - this.parsedTo) * perByte;
  }

  private end(now: number): void {
    const { graph } = this.shared;
    this.parsing = false;
    const wasInHead = this.inHead;
    this.parsedTo = this.target;
    if (wasInHead && !this.inHead) this.page.fetches.releaseHeld(now);
    if (this.parsedTo >= graph.hero.offset) this.meetHero(now);
    this.page.frames.invalidate(now);
    this.goOn(now);
    this.wantParse(now);
  }

  /** The parser has come to the hero's element, unless something else brings that. */
  private meetHero(now: number): void {
    const { builtBy, afterEvent } = this.shared.graph.hero;
    if (this.page.frames.heroElementMs >= 0 || builtBy >= 0 || afterEvent !== undefined) return;
    this.page.frames.heroElementMs = now;
    this.heroStyle = this.lastStyle;
  }

  /** Does what stands at the place the parser has come to. */
  goOn(now: number): void {
    const { graph, p } = this.shared;
    const { fetches, styles, scripts, frames } = this.page;
    for (;;) {
      const stop = p.stops[this.stopAt];
      if (!stop || stop.offset > this.parsedTo) break;
      this.stopAt++;
      if (stop.kind === 'discover') fetches.discover(stop.id, now, CAUSE.document, -1);
      else if (stop.kind === 'style') {
        if (styles.meet(stop.id, now)) {
          this.waitingStyle = stop.id;
          return;
        }
      } else {
        scripts.meet(stop.id, now);
        return;
      }
    }
    if (
      this.documentDone &&
      this.parsedTo >= graph.document.decodedBytes &&
      this.stopAt >= p.stops.length &&
      !this.done
    ) {
      this.done = true;
      this.meetHero(now);
      frames.invalidate(now);
      scripts.runDeferred(now);
    }
  }

  /** The stylesheet of the body that the parser stood at is in. */
  passStyle(fetch: number, now: number): void {
    this.waitingStyle = -1;
    this.lastStyle = fetch;
    this.goOn(now);
  }
}
