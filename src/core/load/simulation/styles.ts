import { CAUSE } from '../browser';
import type { Fetches } from './fetches';
import type { Frames } from './frames';
import type { Parser } from './parser';
import type { Scripts } from './scripts';
import type { Shared } from './shared';

interface Needs {
  readonly fetches: Pick<Fetches, 'discover'>;
  readonly parser: Pick<Parser, 'waitingStyle' | 'passStyle' | 'wantParse'>;
  readonly scripts: Pick<Scripts, 'lastSheetIn' | 'tryWaiting' | 'runDeferred'>;
  readonly frames: Pick<Frames, 'invalidate' | 'gateMs'>;
}

/** Stylesheets with what they import: what they hold back, and until when (HTML, 2.4.10 and 4.2.4). */
export class Styles {
  /** Sheets of the head that hold back rendering and are not in. */
  pendingBlocking = 0;
  /** Fetch of the sheet that opened the gate to the first paint last; -1 for none. */
  gateStyle = -1;
  /** By fetch: 1 for a sheet that is in with all that it imports. */
  private readonly loaded: Uint8Array;
  /** By fetch: itself and what it imports, as far as not in. */
  private readonly pending: Int32Array;
  /** By sheet: 1 once the parser has met it, 2 once it is in after that. */
  private readonly met: Uint8Array;

  constructor(
    private readonly shared: Shared,
    private readonly page: Needs,
  ) {
    const { graph, p } = shared;
    const n = graph.fetches.length;
    this.loaded = new Uint8Array(n);
    this.pending = new Int32Array(n);
    for (let i = 0; i < n; i++) this.pending[i] = 1 + (p.imports[i] as readonly number[]).length;
    this.met = new Uint8Array(graph.styles.length);
  }

  isLoaded(fetch: number): boolean {
    return this.loaded[fetch] === 1;
  }

  /** The parser comes to a sheet; true when it has to wait at it. */
  meet(index: number, now: number): boolean {
    const style = this.shared.graph.styles[index];
    if (!style) return false;
    this.page.fetches.discover(style.fetch, now, CAUSE.document, -1);
    if (!style.blocking || this.met[index]) return false;
    this.met[index] = 1;
    if (this.isLoaded(this.shared.p.lastHop[style.fetch] as number)) return false;
    if (style.inHead) {
      this.pendingBlocking++;
      return false;
    }
    // A stylesheet of the body holds back what follows it, and lets be seen what stands before it (HTML, 2.4.10).
    return true;
  }

  /** A sheet, or one that it imports, is in. */
  partArrived(id: number, now: number): void {
    const { graph, p } = this.shared;
    const { parser, scripts, frames } = this.page;
    if (graph.fetches[id]?.redirectTo !== undefined) return;
    const left = (this.pending[id] as number) - 1;
    this.pending[id] = left;
    if (left > 0) return;
    this.loaded[id] = 1;
    const parent = p.importedBy[id] as number;
    if (parent >= 0) this.partArrived(parent, now);
    const index = p.styleOfFetch[id] as number;
    if (index >= 0 && parser.waitingStyle === index) {
      if (frames.gateMs < 0) this.gateStyle = id;
      parser.passStyle(id, now);
    } else if (index >= 0 && this.met[index] === 1 && graph.styles[index]?.inHead) {
      this.met[index] = 2;
      this.pendingBlocking--;
      if (this.pendingBlocking === 0) {
        this.gateStyle = id;
        scripts.lastSheetIn(id);
      }
    }
    scripts.tryWaiting(now);
    scripts.runDeferred(now);
    frames.invalidate(now);
    parser.wantParse(now);
  }
}
