import {
  BROWSER,
  CAUSE,
  DCL_TASK,
  DELIVER_TASK,
  DIRTY,
  FRAME,
  FRAME_TASK,
  PARSE_TASK,
  REQUEST,
  REQUEST_TASK,
  RUN_TASK,
  TASK_END,
  unit,
} from '../browser';
import type { FetchNode, ScriptNode } from '../graph';
import { Parsing } from './parsing';

/** The main thread's tasks, frames with first paint and hero, DOMContentLoaded and load. */
export abstract class Painting extends Parsing {
  protected enqueue(kind: number, arg: number, now: number): void {
    this.tasks.push(kind, arg);
    if (this.taskKind < 0) this.startTask(now);
  }

  protected startTask(now: number): void {
    if (this.tasks.length === 0) return;
    this.taskKind = this.tasks.shift() as number;
    this.taskArg = this.tasks.shift() as number;
    this.taskStart = now;
    let ms = 0;
    if (this.taskKind === PARSE_TASK) ms = this.startParse();
    else if (this.taskKind === RUN_TASK) {
      this.scriptStart[this.taskArg] = now;
      ms = this.runMs(this.taskArg, now);
    } else if (this.taskKind === FRAME_TASK) {
      const { firstFrameMs, laterFrameMs } = this.graph;
      ms = (this.fcp < 0 ? firstFrameMs + BROWSER.firstFrameMs : laterFrameMs) * this.cpu;
      this.heroInFrame = this.heroReady(now);
      ms += this.picturesIn(now) * BROWSER.drawMsPerMillion * this.cpu;
      this.dirty = false;
    } else if (this.taskKind === DELIVER_TASK) ms = this.deliveryMs(this.taskArg);
    else if (this.taskKind === REQUEST_TASK) {
      // It is on its way before all that goes with it is done.
      this.events.push(now + BROWSER.requestFixedMs, REQUEST, this.taskArg);
      ms = BROWSER.requestMs * this.cpu;
    }
    this.events.push(now + ms, TASK_END, 0);
  }

  /** A run with those of the modules that run before it. Later work has its overhead in what was recorded. */
  private runMs(id: number, now: number): number {
    const script = this.graph.scripts[id] as ScriptNode;
    let ms = script.runMs + (script.mode === 'callback' ? 0 : BROWSER.runOverheadMs);
    for (const module of script.imports ?? []) {
      if (this.graph.scripts[module]?.mode !== 'import' || this.scriptStart[module] !== -1) continue;
      this.scriptStart[module] = now;
      ms += (this.graph.scripts[module] as ScriptNode).runMs;
    }
    return ms * this.cpu;
  }

  protected endTask(now: number): void {
    const kind = this.taskKind;
    const arg = this.taskArg;
    this.longTaskMs += Math.max(0, now - this.taskStart - 50);
    this.taskKind = -1;
    if (kind === PARSE_TASK) this.endParse(now);
    else if (kind === RUN_TASK) this.endScript(arg, now);
    else if (kind === FRAME_TASK) this.endFrame(now);
    else if (kind === DELIVER_TASK) this.arrived(arg, now);
    else if (kind === DCL_TASK) {
      this.dcl = now;
      this.fire('dcl', now);
      this.checkLoad(now);
    }
    if (this.taskKind < 0) this.startTask(now);
  }

  protected fire(event: 'dcl' | 'load', now: number): void {
    if (this.graph.hero.afterEvent === event) {
      this.heroElementMs = now;
      this.invalidate(now);
    }
    this.call(this.p.calledBy[event], now);
    for (const id of this.p.afterEvent[event]) {
      const d = (this.graph.fetches[id] as FetchNode).discovery;
      this.later(id, now + (d.by === 'event' ? d.delayMs : 0), now, -1);
    }
  }

  // --- Frames
  protected get gateOpen(): boolean {
    const { contentOffset, contentBuiltBy = -1 } = this.graph.document;
    if (this.pendingBlocking > 0 || (this.parsedTo < contentOffset && !this.parserDone)) return false;
    return contentBuiltBy < 0 || this.scriptEnd[contentBuiltBy] !== -1;
  }

  protected invalidate(now: number): void {
    this.dirty = true;
    if (!this.gateOpen) return;
    if (this.gateMs < 0) this.gateMs = now;
    if (this.frameQueued) return;
    this.frameQueued = true;
    this.events.push(Math.ceil((now + 0.01) / BROWSER.frameMs) * BROWSER.frameMs, FRAME, 0);
  }

  /** Text is shown when its font is there, or has been waited for long enough (CSS Fonts 4, 4.9); -1 for a font that hides nothing. */
  private textShown(font: number, now: number): boolean {
    if (font < 0 || this.delivered[font] !== -1) return true;
    const until = this.hiddenUntil(font);
    return until !== -1 && now >= until;
  }

  /** When text is drawn although its font is not there; -1 as long as nobody has asked for the font. */
  private hiddenUntil(font: number): number {
    const since = this.found[font] as number;
    if (since === -1) return -1;
    const { hidesUntilMs = Infinity } = this.graph.fetches[font] as FetchNode;
    return Math.min(since + BROWSER.fontBlockMs, Math.max(since, hidesUntilMs));
  }

  /** Something to see: text that its font does not hide, or a picture. */
  private contentShown(now: number): boolean {
    return this.newPictures > 0 || this.textShown(this.graph.contentFont, now);
  }

  /** A frame for the moment when a font has been waited for long enough. */
  private wakeForText(font: number, shownMs: number, now: number): void {
    const until = font < 0 || shownMs >= 0 ? -1 : this.hiddenUntil(font);
    // One that was asked for only now may hide nothing any more: then in the next frame.
    if (until >= now) this.events.push(until, DIRTY, 0);
  }

  /** Pictures of the first screen that a frame shows for the first time, in millions of points. */
  private picturesIn(now: number): number {
    this.newPictures = 0;
    if (!this.gateOpen) return 0;
    for (const id of this.p.inView) {
      if (this.painted[id] === 1 || this.delivered[id] === -1) continue;
      const f = this.graph.fetches[id] as FetchNode;
      if ('offset' in f.discovery && f.discovery.offset > this.parsedTo) continue;
      if (id === this.p.heroFetch && !this.heroReady(now)) continue;
      this.painted[id] = 1;
      this.newPictures += f.pixels / 1e6;
    }
    return this.newPictures;
  }

  protected heroReady(now: number): boolean {
    const { hero } = this.graph;
    if (this.heroElementMs < 0 || this.heroElementMs > now) return false;
    const file = this.p.heroFetch;
    if (file >= 0) {
      const done = this.delivered[file] as number;
      return done !== -1 && done <= now + 0.01;
    }
    return this.textShown(hero.font, now);
  }

  protected endFrame(now: number): void {
    this.frameQueued = false;
    if (!this.gateOpen) return;
    // Drawing is done beside the main thread, one frame after the other.
    const shown = Math.max(now, this.drawnUntil) + this.newPictures * BROWSER.drawFixedMsPerMillion + BROWSER.presentMs;
    this.drawnUntil = shown - BROWSER.presentMs;
    if (this.fcp < 0 && this.contentShown(now)) this.fcp = shown;
    if (this.heroInFrame && this.lcp < 0) this.lcp = shown;
    this.raiseInView();
    if (this.undrawn > 0) this.discoverDrawn(now);
    this.wakeForText(this.graph.hero.font, this.lcp, now);
    this.wakeForText(this.graph.contentFont, this.fcp, now);
    if (this.dirty) this.invalidate(now);
    if (this.drawFirst) {
      this.drawFirst = false;
      this.runDeferred(now);
    }
  }

  /** What layout has found in the first screen is raised; what it finds only now, in the next frame. */
  private raiseInView(): void {
    const { network } = this;
    this.p.raised.forEach((f, i) => {
      if (this.found[f] === -1 || (network.priority[f] as number) >= 3) return;
      // Browsers raise what is in view in an order of their own: in each draw another one. Undrawn, the hero is in the middle.
      const place = this.seed === 0 ? (f === this.p.heroFetch ? 0.5 : (i % 2) * 0.9) : unit(this.seed, f);
      network.raise(f, 3, place);
    });
  }

  /** Lazy pictures near the first screen, and what styles name for what is drawn. */
  private discoverDrawn(now: number): void {
    for (const id of this.p.drawn) {
      if (this.found[id] !== -1) continue;
      const d = (this.graph.fetches[id] as FetchNode).discovery;
      if (d.by === 'layout' && d.offset <= this.parsedTo) this.discover(id, now, CAUSE.layout, -1);
      else if (d.by === 'style' && d.offset <= this.parsedTo && (d.sheet < 0 || this.sheetLoaded[d.sheet])) {
        this.discover(id, now, CAUSE.style, d.sheet);
      } else continue;
      this.undrawn--;
    }
  }

  protected checkLoad(now: number): void {
    if (this.load >= 0 || this.dcl < 0 || this.dynamicPending > 0) return;
    if (this.holding > 0) return;
    this.load = now;
    this.fire('load', now);
  }
}
