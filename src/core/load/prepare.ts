import { finalFetch, type LoadGraph } from './graph';
import { poolsOf, type Pool } from './pools';

/** Where the parser has something to do besides parsing. */
export interface Stop {
  readonly offset: number;
  readonly kind: 'script' | 'style' | 'discover';
  /** Script, style or fetch. */
  readonly id: number;
}

/** Lookups that one simulation after the other shares. */
export interface Prepared {
  readonly stops: readonly Stop[];
  /** Fetches the scanner finds, by offset. */
  readonly scanned: readonly { readonly offset: number; readonly fetch: number }[];
  /** Each fetch's last hop: itself where nothing redirects it. */
  readonly lastHop: Int32Array;
  readonly afterFetch: readonly (readonly number[])[];
  readonly afterScript: readonly (readonly number[])[];
  readonly afterEvent: Readonly<Record<'dcl' | 'load', readonly number[]>>;
  /** Callbacks by what sets them off. */
  readonly calledBy: {
    readonly fetch: readonly (readonly number[])[];
    readonly script: readonly (readonly number[])[];
    readonly dcl: readonly number[];
    readonly load: readonly number[];
  };
  /** Found by layout or when drawn. */
  readonly drawn: readonly number[];
  /** Asked for because of Early Hints. */
  readonly early: readonly number[];
  /** Shown by the first screen. */
  readonly inView: readonly number[];
  /** Raised by the first layout that sees them. */
  readonly raised: readonly number[];
  /** Imported sheets of a sheet, and the sheet that imports. */
  readonly imports: readonly (readonly number[])[];
  readonly importedBy: Int32Array;
  readonly styleOfFetch: Int32Array;
  readonly scriptOfFetch: Int32Array;
  readonly deferred: readonly number[];
  /** Scripts that hold back the first paint though the parser does not wait for them. */
  readonly holdingPaint: readonly number[];
  readonly heroFetch: number;
  readonly pools: readonly Pool[];
  readonly poolOf: Int32Array;
  /** Pool of each hint to connect; -1 for one that nothing uses. */
  readonly hinted: Int32Array;
}

const cache = new WeakMap<LoadGraph, Prepared>();

/** Indexes a graph; the answer is kept as long as the graph is. */
export function prepare(graph: LoadGraph): Prepared {
  const kept = cache.get(graph);
  if (kept) return kept;
  const n = graph.fetches.length;
  const lists = (size: number) => Array.from({ length: size }, (): number[] => []);
  const afterFetch = lists(n);
  const afterScript = lists(graph.scripts.length);
  const afterEvent = { dcl: [] as number[], load: [] as number[] };
  const drawn: number[] = [];
  const imports = lists(n);
  const importedBy = new Int32Array(n).fill(-1);
  const styleOfFetch = new Int32Array(n).fill(-1);
  const scriptOfFetch = new Int32Array(n).fill(-1);
  const stops: Stop[] = [];
  const scanned: { offset: number; fetch: number }[] = [];
  for (const f of graph.fetches) {
    const d = f.discovery;
    if (d.by === 'scanner') scanned.push({ offset: d.offset, fetch: f.id });
    else if (d.by === 'parser') stops.push({ offset: d.offset, kind: 'discover', id: f.id });
    else if (d.by === 'layout') drawn.push(f.id);
    else if (d.by === 'script') afterScript[d.script]?.push(f.id);
    else if (d.by === 'event') afterEvent[d.event].push(f.id);
    else if (d.by === 'fetch') afterFetch[d.fetch]?.push(f.id);
    else if (d.by === 'style') {
      if (d.drawn || d.sheet < 0) drawn.push(f.id);
      else {
        const sheet = finalFetch(graph, d.sheet);
        afterFetch[sheet]?.push(f.id);
        if (f.kind === 'style') {
          const last = finalFetch(graph, f.id);
          imports[sheet]?.push(last);
          importedBy[last] = sheet;
        }
      }
    }
  }
  graph.styles.forEach((style, i) => {
    styleOfFetch[finalFetch(graph, style.fetch)] = i;
    if (style.offset >= 0) stops.push({ offset: style.offset, kind: 'style', id: i });
  });
  const deferred: number[] = [];
  const calledBy = { fetch: lists(n), script: lists(graph.scripts.length), dcl: [] as number[], load: [] as number[] };
  for (const s of graph.scripts) {
    const { after } = s;
    if (after?.by === 'fetch') calledBy.fetch[finalFetch(graph, after.fetch)]?.push(s.id);
    else if (after?.by === 'script') calledBy.script[after.script]?.push(s.id);
    else if (after?.by === 'event') calledBy[after.event].push(s.id);
    if (s.fetch >= 0) scriptOfFetch[finalFetch(graph, s.fetch)] = s.id;
    if (s.mode === 'sync' || s.mode === 'inline') stops.push({ offset: s.offset, kind: 'script', id: s.id });
    else if (s.mode === 'defer') deferred.push(s.id);
  }
  const place = (id: number) => {
    const d = (graph.fetches[id] as LoadGraph['fetches'][number]).discovery;
    return 'offset' in d ? d.offset : 0;
  };
  const arrives = (id: number) => id >= 0 && graph.fetches[finalFetch(graph, id)]?.refused === false;
  drawn.sort((a, b) => place(a) - place(b));
  stops.sort((a, b) => a.offset - b.offset);
  scanned.sort((a, b) => a.offset - b.offset);
  deferred.sort((a, b) => (graph.scripts[a]?.offset ?? 0) - (graph.scripts[b]?.offset ?? 0));
  const prepared: Prepared = {
    stops,
    scanned,
    lastHop: Int32Array.from(graph.fetches, (f) => finalFetch(graph, f.id)),
    afterFetch,
    afterScript,
    afterEvent,
    calledBy,
    drawn,
    early: graph.fetches.filter((f) => f.early).map((f) => f.id),
    inView: graph.fetches.filter((f) => f.inViewport).map((f) => f.id),
    raised: graph.fetches.filter((f) => f.inViewport || f.seenAtFirst).map((f) => f.id),
    imports,
    importedBy,
    styleOfFetch,
    scriptOfFetch,
    deferred,
    holdingPaint: graph.scripts.filter((s) => s.holdsPaint && arrives(s.fetch)).map((s) => s.id),
    heroFetch: graph.hero.fetch < 0 ? -1 : finalFetch(graph, graph.hero.fetch),
    ...poolsOf(graph),
  };
  cache.set(graph, prepared);
  return prepared;
}
