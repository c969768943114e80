import { BROWSER, CAUSE, DIRTY, FRAME, FRAME_TASK, unit } from '../browser';
import type { FetchNode } from '../graph';
import type { Fetches } from './fetches';
import type { MainThread, TaskKind } from './mainThread';
import type { Moments } from './moments';
import type { Parser } from './parser';
import type { Scripts } from './scripts';
import type { Shared } from './shared';
import type { Styles } from './styles';

interface Needs {
  readonly thread: Pick<MainThread, 'enqueue'>;
  readonly fetches: Pick<Fetches, 'found' | 'delivered' | 'discover'>;
  readonly parser: Pick<Parser, 'parsedTo' | 'done' | 'wantParse'>;
  readonly styles: Pick<Styles, 'pendingBlocking' | 'isLoaded'>;
  readonly scripts: Pick<Scripts, 'ended' | 'drawFirst' | 'runDeferred'>;
  readonly moments: Pick<Moments, 'checkLoad'>;
}

/** Frames: first and hero paint, what layout discovers and raises. Times are -1 until they are known. */
export class Frames {
  fcp = -1;
  lcp = -1;
  /** When the hero's element is there. */
  heroElementMs = -1;
  /** When nothing held back the first paint any more. */
  gateMs = -1;
  /** A frame is due. */
  queued = false;
  private dirty = true;
  private heroInFrame = false;
  /** Pictures drawn already; millions of points that are new in this frame; until when drawing is busy. */
  private readonly painted: Uint8Array;
  private newPictures = 0;
  /** How far the document is laid out, in decoded bytes. */
  private laidOutTo = 0;
  private drawnUntil = 0;
  /** Of what layout has to find, how many it has not. */
  private undrawn: number;

  constructor(
    private readonly shared: Shared,
    private readonly page: Needs,
  ) {
    this.painted = new Uint8Array(shared.graph.fetches.length);
    this.undrawn = shared.p.drawn.length;
  }

  readonly task: TaskKind = {
    begin: (_, now) => this.begin(now),
    end: (_, now) => {
      this.end(now);
      this.page.parser.wantParse(now);
    },
  };

  /** Nothing holds back a paint: no sheet is pending, and there is something to show, or a hero that only needs its file. */
  get gateOpen(): boolean {
    const { graph, p } = this.shared;
    const { parser, styles, scripts } = this.page;
    if (styles.pendingBlocking > 0 || (parser.parsedTo < graph.document.contentOffset && !parser.done)) return false;
    for (const script of p.holdingPaint) if (scripts.ended[script] === -1) return false;
    return this.contentBuilt || (p.heroFetch >= 0 && this.heroElementMs >= 0);
  }

  /** The content is there that scripts make, where they do. */
  private get contentBuilt(): boolean {
    const { contentBuiltBy = -1 } = this.shared.graph.document;
    return contentBuiltBy < 0 || this.page.scripts.ended[contentBuiltBy] !== -1;
  }

  /** Something has changed that a frame would show. */
  invalidate(now: number): void {
    this.dirty = true;
    if (!this.gateOpen) return;
    if (this.gateMs < 0) this.gateMs = now;
    if (this.queued) return;
    this.queued = true;
    this.shared.queue.push(Math.ceil((now + 0.01) / BROWSER.frameMs) * BROWSER.frameMs, FRAME, 0);
  }

  /** The screen asks for a frame. */
  due(now: number): void {
    this.page.thread.enqueue(FRAME_TASK, 0, now);
  }

  private begin(now: number): number {
    if (this.undrawn > 0 && this.gateOpen) this.discoverStyled(now, true);
    const { graph, cpu, work } = this.shared;
    const { layoutMs = 0, document } = graph;
    const { parsedTo } = this.page.parser;
    const grown = Math.max(0, parsedTo - this.laidOutTo) / Math.max(1, document.decodedBytes);
    this.laidOutTo = Math.max(this.laidOutTo, parsedTo);
    const first = this.fcp < 0;
    const ms = (layoutMs * grown + (first ? graph.firstFrameMs : graph.laterFrameMs)) * work;
    this.heroInFrame = this.heroReady(now);
    const drawing = this.picturesIn(now) * BROWSER.drawMsPerMillion;
    this.dirty = false;
    return ms + (drawing + (first ? BROWSER.firstFrameMs : 0)) * cpu;
  }

  private end(now: number): void {
    const { graph } = this.shared;
    this.queued = false;
    if (!this.gateOpen) return;
    // Drawing is done beside the main thread, one frame after the other.
    const { firstMs = BROWSER.presentMs, heroMs = BROWSER.presentMs } = graph.presentation ?? {};
    this.drawnUntil = Math.max(now, this.drawnUntil) + this.newPictures * BROWSER.drawFixedMsPerMillion;
    const shown = this.drawnUntil + BROWSER.presentFixedMs + (this.heroInFrame ? heroMs : firstMs);
    if (this.fcp < 0 && this.contentShown(now)) this.fcp = shown;
    if (this.heroInFrame && this.lcp < 0) this.lcp = shown;
    this.raiseInView(now);
    if (this.undrawn > 0) this.discoverDrawn(now);
    this.wakeForText(graph.hero.font, this.lcp, now);
    this.wakeForText(graph.contentFont, this.fcp, now);
    if (this.dirty) this.invalidate(now);
    const { scripts } = this.page;
    if (scripts.drawFirst) {
      scripts.drawFirst = false;
      scripts.runDeferred(now);
    }
    this.page.moments.checkLoad(now);
  }

  /** The whole document is parsed: styles are computed before the load event, if they may be (HTML, 13.2.7). */
  computeStyles(now: number): void {
    if (this.undrawn > 0 && this.gateOpen) this.discoverStyled(now, false);
  }

  /**
   * Text is shown when its font is there, or has been waited for long enough (CSS Fonts 4, 4.9); -1 for a font that hides
   * nothing. As long as the stylesheet with its rule is not in, nobody knows of the font, and it hides nothing either.
   */
  private textShown(font: number, now: number): boolean {
    if (font < 0 || this.page.fetches.delivered[font] !== -1) return true;
    const { discovery, ruleIn = -1 } = this.shared.graph.fetches[font] as FetchNode;
    const sheet = discovery.by === 'style' ? discovery.sheet : ruleIn;
    if (sheet >= 0 && !this.page.styles.isLoaded(sheet)) return true;
    const until = this.hiddenUntil(font);
    return until !== -1 && now >= until;
  }

  /** When text is drawn although its font is not there; -1 as long as nobody has asked for the font. */
  private hiddenUntil(font: number): number {
    const since = this.page.fetches.found[font] as number;
    if (since === -1) return -1;
    const { hidesUntilMs = Infinity } = this.shared.graph.fetches[font] as FetchNode;
    return Math.min(since + BROWSER.fontBlockMs, Math.max(since, hidesUntilMs));
  }

  /** Something to see: the hero, another picture, or text that its font does not hide. */
  private contentShown(now: number): boolean {
    if (this.heroInFrame || this.newPictures > 0) return true;
    return this.contentBuilt && this.textShown(this.shared.graph.contentFont, now);
  }

  /** A frame for the moment when a font has been waited for long enough. */
  private wakeForText(font: number, shownMs: number, now: number): void {
    const until = font < 0 || shownMs >= 0 ? -1 : this.hiddenUntil(font);
    // One that was asked for only now may hide nothing any more: then in the next frame.
    if (until >= now) this.shared.queue.push(until, DIRTY, 0);
  }

  /** Pictures of the first screen that a frame shows for the first time, in millions of points. */
  private picturesIn(now: number): number {
    const { graph, p } = this.shared;
    this.newPictures = 0;
    if (!this.gateOpen) return 0;
    for (const id of p.inView) {
      if (this.painted[id] === 1 || this.page.fetches.delivered[id] === -1) continue;
      const f = graph.fetches[id] as FetchNode;
      if ('offset' in f.discovery && f.discovery.offset > this.page.parser.parsedTo) continue;
      if (id === p.heroFetch && !this.heroReady(now)) continue;
      this.painted[id] = 1;
      this.newPictures += f.pixels / 1e6;
    }
    return this.newPictures;
  }

  private heroReady(now: number): boolean {
    if (this.heroElementMs < 0 || this.heroElementMs > now) return false;
    const file = this.shared.p.heroFetch;
    if (file < 0) return this.textShown(this.shared.graph.hero.font, now);
    const done = this.page.fetches.delivered[file] as number;
    return done !== -1 && done <= now + 0.01;
  }

  /** What layout has found in the first screen is raised; what it finds only now, in the next frame. */
  private raiseInView(now: number): void {
    const { network, p, seed } = this.shared;
    p.raised.forEach((f, i) => {
      if (this.page.fetches.found[f] === -1 || (network.priority[f] as number) >= 3) return;
      // Browsers raise what is in view in an order of their own: in each draw another one. Undrawn, the hero is in the middle.
      const place = seed === 0 ? (f === p.heroFetch ? 0.5 : (i % 2) * 0.9) : unit(seed, f);
      network.raise(f, 3, place, now);
    });
  }

  /** Lazy pictures near the first screen, and what styles name for what is drawn. */
  private discoverDrawn(now: number): void {
    const { graph, p } = this.shared;
    const { fetches, parser } = this.page;
    this.discoverStyled(now, false);
    for (const id of p.drawn) {
      const d = (graph.fetches[id] as FetchNode).discovery;
      if (fetches.found[id] !== -1 || d.by !== 'layout' || d.offset > parser.parsedTo) continue;
      fetches.discover(id, now, CAUSE.layout, -1);
      this.undrawn--;
    }
  }

  /**
   * What styles name for what is drawn. Pictures are asked for as soon as the style of their element is computed, so when
   * a frame begins; fonts once the task that laid their text out has ended (in timelines, whatever the layout took).
   */
  private discoverStyled(now: number, within: boolean): void {
    const { graph, p } = this.shared;
    const { fetches, parser, styles } = this.page;
    for (const id of p.drawn) {
      const { discovery: d, kind } = graph.fetches[id] as FetchNode;
      if (fetches.found[id] !== -1 || d.by !== 'style' || d.offset > parser.parsedTo) continue;
      if ((within && kind === 'font') || (d.sheet >= 0 && !styles.isLoaded(d.sheet))) continue;
      fetches.discover(id, now, CAUSE.style, d.sheet, within);
      this.undrawn--;
    }
  }
}
