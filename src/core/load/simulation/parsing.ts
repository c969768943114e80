import { BROWSER, CAUSE, DCL_TASK, PARSE_TASK, RUN_TASK } from '../browser';
import type { FetchNode, ScriptNode } from '../graph';
import { Fetching } from './fetching';

/** The document as a stream: scanner, parser, stylesheets and scripts (HTML, sections 4.12.1 and 13.2). */
export abstract class Parsing extends Fetching {
  protected get decoded(): number {
    return this.documentDone
      ? this.graph.document.decodedBytes
      : Math.min(this.graph.document.decodedBytes, this.received * this.wirePerByte);
  }

  protected documentGrew(now: number): void {
    this.scan(now);
    this.wantParse(now);
  }

  protected scan(now: number): void {
    const { scanned } = this.p;
    const upTo = this.decoded;
    while (this.scanAt < scanned.length) {
      const item = scanned[this.scanAt] as { offset: number; fetch: number };
      if (item.offset > upTo) break;
      this.scanAt++;
      this.discover(item.fetch, now, CAUSE.document, -1);
    }
    this.graph.preconnects.forEach((hint, i) => {
      const pool = this.p.hinted[i] as number;
      if (hint.offset <= upTo && pool >= 0) this.network.preconnect(pool, now);
    });
  }

  protected wantParse(now: number): void {
    if (this.parsing || this.parserDone || this.waitingScript >= 0 || this.waitingStyle >= 0) return;
    if (this.decoded > this.parsedTo || this.documentDone) {
      this.parsing = true;
      this.enqueue(PARSE_TASK, 0, now);
    }
  }

  protected get heroByParser(): boolean {
    return this.heroElementMs < 0 && this.graph.hero.builtBy < 0 && this.graph.hero.afterEvent === undefined;
  }

  private heroParsed(now: number): void {
    this.heroElementMs = now;
    this.heroStyle = this.parserStyle;
  }

  protected startParse(): number {
    const perByte = (this.graph.document.parseMs * this.cpu) / Math.max(1, this.graph.document.decodedBytes);
    const stop = this.p.stops[this.stopAt];
    let target = this.decoded;
    if (stop && stop.offset < target) target = stop.offset;
    if (perByte > 0) {
      const slice = Math.max(
        BROWSER.maxParseSliceMs / perByte,
        this.graph.document.decodedBytes / BROWSER.maxParseSlices,
      );
      target = Math.min(target, this.parsedTo + slice);
    }
    this.parseTarget = Math.max(this.parsedTo, target);
    return (this.parseTarget - this.parsedTo) * perByte;
  }

  protected endParse(now: number): void {
    this.parsing = false;
    const before = this.parsedTo;
    this.parsedTo = this.parseTarget;
    const body = this.graph.document.bodyOffset;
    if (before < body && this.parsedTo >= body) this.releaseHeld(now);
    if (this.heroByParser && this.parsedTo >= this.graph.hero.offset) this.heroParsed(now);
    this.invalidate(now);
    this.atStops(now);
    this.wantParse(now);
  }

  /** Does what stands at the place the parser has come to. */
  protected atStops(now: number): void {
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
      if (this.heroByParser) this.heroParsed(now);
      this.invalidate(now);
      this.runDeferred(now);
    }
  }

  // --- Styles
  /** True when the parser has to wait at it. */
  protected meetStyle(index: number, now: number): boolean {
    const style = this.graph.styles[index];
    if (!style) return false;
    this.discover(style.fetch, now, CAUSE.document, -1);
    if (!style.blocking || this.styleMet[index]) return false;
    this.styleMet[index] = 1;
    if (this.sheetLoaded[this.sheetOf(index)]) return false;
    if (style.inHead) {
      this.pendingBlocking++;
      return false;
    }
    // A stylesheet of the body holds back what follows it, and lets be seen what stands before it (HTML, 2.4.10).
    this.waitingStyle = index;
    return true;
  }

  protected sheetOf(index: number): number {
    let id = (this.graph.styles[index] as { fetch: number }).fetch;
    for (let next = this.graph.fetches[id]?.redirectTo; next !== undefined; next = this.graph.fetches[id]?.redirectTo)
      id = next;
    return id;
  }

  protected sheetPart(id: number, now: number): void {
    if (this.graph.fetches[id]?.redirectTo !== undefined) return;
    const left = (this.sheetPending[id] as number) - 1;
    this.sheetPending[id] = left;
    if (left > 0) return;
    this.sheetLoaded[id] = 1;
    const parent = this.p.importedBy[id] as number;
    if (parent >= 0) this.sheetPart(parent, now);
    const index = this.p.styleOfFetch[id] as number;
    if (index >= 0 && this.waitingStyle === index) {
      this.waitingStyle = -1;
      this.parserStyle = id;
      if (this.gateMs < 0) this.gateStyle = id;
      this.atStops(now);
    } else if (index >= 0 && this.styleMet[index] === 1 && this.graph.styles[index]?.inHead) {
      this.styleMet[index] = 2;
      this.pendingBlocking--;
      if (this.pendingBlocking === 0) {
        this.gateStyle = id;
        if (this.waitingScript >= 0) this.scriptStyle[this.waitingScript] = id;
        // What the last stylesheet lets be seen is drawn before scripts run that waited for the end of the document.
        this.drawFirst = this.parserDone && this.fcp < 0 && this.gateOpen;
      }
    }
    this.tryWaitingScript(now);
    this.runDeferred(now);
    this.invalidate(now);
    this.wantParse(now);
  }

  // --- Scripts
  protected meetScript(id: number, now: number): boolean {
    const script = this.graph.scripts[id] as ScriptNode;
    if (script.fetch >= 0) this.discover(script.fetch, now, CAUSE.document, -1);
    this.waitingScript = id;
    this.tryWaitingScript(now);
    return true;
  }

  protected tryWaitingScript(now: number): void {
    const id = this.waitingScript;
    if (id < 0 || this.queuedScript[id]) return;
    const script = this.graph.scripts[id] as ScriptNode;
    if (this.pendingBlocking > 0 || !this.scriptHere(script)) return;
    this.queueScript(id, now);
  }

  /** It is in, and so is every module that it imports (HTML, 8.1.4.2). */
  protected scriptHere(script: ScriptNode): boolean {
    if (script.fetch >= 0 && !this.fileHere(script.fetch)) return false;
    for (const id of script.imports ?? []) {
      const { fetch } = this.graph.scripts[id] as ScriptNode;
      if (fetch >= 0 && !this.fileHere(fetch)) return false;
    }
    return true;
  }

  private fileHere(fetch: number): boolean {
    let id = fetch;
    for (let next = this.graph.fetches[id]?.redirectTo; next !== undefined; next = this.graph.fetches[id]?.redirectTo)
      id = next;
    return this.delivered[id] !== -1;
  }

  protected scriptArrived(id: number, now: number): void {
    const script = this.graph.scripts[id] as ScriptNode;
    // What arrives after the sheets did not wait for them.
    this.scriptStyle[id] = -1;
    if (script.mode === 'async' || script.mode === 'dynamic') this.whenHere(id, now);
    else if (script.mode === 'defer') this.runDeferred(now);
    else if (script.mode === 'import') this.importArrived(id, now);
    else if (this.waitingScript === id) this.tryWaitingScript(now);
  }

  private whenHere(id: number, now: number): void {
    if (this.scriptHere(this.graph.scripts[id] as ScriptNode)) this.queueScript(id, now);
  }

  /** The last module that somebody waited for may be this one. */
  private importArrived(module: number, now: number): void {
    for (const s of this.graph.scripts)
      if ((s.mode === 'async' || s.mode === 'dynamic') && s.imports?.includes(module)) this.whenHere(s.id, now);
    this.runDeferred(now);
  }

  protected queueScript(id: number, now: number): void {
    if (this.queuedScript[id]) return;
    this.queuedScript[id] = 1;
    // No event waits for a timer or a handler.
    if (this.graph.scripts[id]?.mode !== 'callback') this.dynamicPending++;
    this.enqueue(RUN_TASK, id, now);
  }

  protected endScript(id: number, now: number): void {
    this.scriptEnd[id] = now;
    const { mode, imports } = this.graph.scripts[id] as ScriptNode;
    if (mode !== 'callback') this.dynamicPending--;
    for (const module of imports ?? []) if (this.scriptEnd[module] === -1) this.endImport(module, now);
    this.call(this.p.calledBy.script[id] as readonly number[], now);
    for (const fetch of this.p.afterScript[id] as readonly number[]) {
      const d = (this.graph.fetches[fetch] as FetchNode).discovery;
      this.later(fetch, now + (d.by === 'script' ? d.delayMs : 0), now, id);
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

  /** A module that ran with the one that imports it. */
  private endImport(id: number, now: number): void {
    if (this.graph.scripts[id]?.mode !== 'import') return;
    this.scriptEnd[id] = now;
    this.call(this.p.calledBy.script[id] as readonly number[], now);
    for (const fetch of this.p.afterScript[id] as readonly number[]) {
      const d = (this.graph.fetches[fetch] as FetchNode).discovery;
      this.later(fetch, now + (d.by === 'script' ? d.delayMs : 0), now, id);
    }
    if (this.graph.hero.builtBy === id) this.heroElementMs = now;
  }

  protected runDeferred(now: number): void {
    if (!this.parserDone || this.dclQueued || this.drawFirst) return;
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
}
