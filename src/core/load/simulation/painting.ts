import { BROWSER, CAUSE, DIRTY, FRAME, FRAME_TASK, PARSE_TASK, RUN_TASK, TASK_END } from '../browser';
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
      ms = (this.graph.scripts[this.taskArg] as ScriptNode).runMs * this.cpu;
    } else if (this.taskKind === FRAME_TASK) {
      ms = (this.fcp < 0 ? this.graph.firstFrameMs : this.graph.laterFrameMs) * this.cpu;
      this.heroInFrame = this.heroReady(now);
      this.dirty = false;
    }
    this.events.push(now + ms, TASK_END, 0);
  }

  protected endTask(now: number): void {
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

  protected fire(event: 'dcl' | 'load', now: number): void {
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
  protected get gateOpen(): boolean {
    return this.pendingBlocking === 0 && (this.parsedTo >= this.graph.document.contentOffset || this.parserDone);
  }

  protected invalidate(now: number): void {
    this.dirty = true;
    if (!this.gateOpen) return;
    if (this.gateMs < 0) this.gateMs = now;
    if (this.frameQueued) return;
    this.frameQueued = true;
    this.events.push(Math.ceil((now + 0.01) / BROWSER.frameMs) * BROWSER.frameMs, FRAME, 0);
  }

  protected heroReady(now: number): boolean {
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

  protected endFrame(now: number): void {
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

  protected checkLoad(now: number): void {
    if (this.load >= 0 || this.dcl < 0 || this.dynamicPending > 0) return;
    for (let i = 0; i < this.n; i++) {
      if (this.found[i] !== -1 && this.done[i] === -1 && (this.graph.fetches[i] as FetchNode).holdsLoad) return;
    }
    this.load = now;
    this.fire('load', now);
  }
}
