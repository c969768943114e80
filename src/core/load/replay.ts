import type { LoadGraph, ScriptNode, Trigger } from './graph';

/** Milestones of one simulated load, in ms since the navigation; bytes as transferred. */
export interface Milestones {
  readonly ttfbMs: number;
  readonly fcpMs: number;
  readonly lcpMs: number;
  readonly dclMs: number;
  readonly loadMs: number;
  readonly bytes: number;
  readonly requests: number;
  /** Main-thread time beyond 50 ms in each task. */
  readonly longTaskMs: number;
  /** Layout shift as recorded, less what pictures no longer cause; undefined where none was recorded. */
  readonly cls?: number;
}

/** How the hero's time splits; the four parts add up to LCP. */
export interface HeroSplit {
  readonly serverMs: number;
  readonly untilFoundMs: number;
  readonly transferMs: number;
  readonly untilPaintedMs: number;
}

/** What a fetch waited for before it was asked for. */
export interface Cause {
  readonly kind: 'navigation' | 'document' | 'style' | 'script' | 'layout' | 'event' | 'fetch';
  /** Fetch for style/fetch, script for script; -1 otherwise. */
  readonly id: number;
}

export interface FetchTimes {
  readonly foundMs: number;
  readonly sentMs: number;
  readonly firstByteMs: number;
  readonly endMs: number;
  readonly cause: Cause;
}

/** One link of the chain that the hero's paint waited for. */
export interface PathStep {
  readonly kind: 'fetch' | 'script' | 'paint';
  /** Fetch or script; -1 for paint. */
  readonly id: number;
  readonly fromMs: number;
  readonly toMs: number;
  /** Plain words for why this step could not start earlier. */
  readonly why: string;
}

/** One load as simulated: milestones and the times of every node. */
export interface Replay {
  readonly milestones: Milestones;
  readonly split: HeroSplit;
  readonly fetches: readonly FetchTimes[];
  readonly scripts: readonly { readonly startMs: number; readonly endMs: number }[];
  /** What the hero's paint waited for. */
  readonly path: readonly PathStep[];
  /** What the first paint and the load event waited for. */
  readonly fcpPath: readonly PathStep[];
  readonly loadPath: readonly PathStep[];
  /** 1-based place of the hero's file in the order of requests; 0 for text. */
  readonly heroPlace: number;
}

/** What the simulation leaves behind for reports. */
export interface Trace {
  readonly found: Float64Array;
  readonly sent: Float64Array;
  readonly first: Float64Array;
  readonly done: Float64Array;
  readonly causeKind: Uint8Array;
  readonly causeId: Int32Array;
  readonly scriptStart: Float64Array;
  readonly scriptEnd: Float64Array;
  /** Script that kept the parser before it reached the body; -1 for none. */
  readonly gateScript: number;
  /** Style that opened the gate last; -1 for none. */
  readonly gateStyle: number;
  readonly gateMs: number;
  readonly dclMs: number;
  readonly heroReadyMs: number;
  readonly heroElementMs: number;
  /** Stylesheet of the body that the parser had waited for when it came to the hero; -1 for none. */
  readonly heroStyle: number;
  /** For scripts that waited for a style: its fetch. */
  readonly scriptStyle: Int32Array;
}

export const CAUSES = ['navigation', 'document', 'style', 'script', 'layout', 'event', 'fetch'] as const;

/** What a walk back to the navigation begins with: a file, what held back the first paint, or what brought the hero's element. */
type Origin = { readonly by: 'file'; readonly id: number } | { readonly by: 'gate' } | { readonly by: 'element' };

/** Walks back from the hero's paint to the navigation. */
export function criticalPath(graph: LoadGraph, trace: Trace, heroFetch: number, lcpMs: number): PathStep[] {
  const last = Math.max(trace.gateMs, trace.heroElementMs);
  const byFile = heroFetch >= 0 && trace.heroReadyMs >= last - 1;
  const byElement = !byFile && trace.heroElementMs > trace.gateMs + 1;
  const paint: PathStep = {
    kind: 'paint',
    id: -1,
    fromMs: Math.min(byFile ? trace.heroReadyMs : last, lcpMs),
    toMs: lcpMs,
    why: byFile
      ? 'drawn once its file was in'
      : byElement
        ? 'drawn once its element was there'
        : 'drawn once nothing held back the first paint',
  };
  return walkBack(graph, trace, paint, byFile ? { by: 'file', id: heroFetch } : { by: byElement ? 'element' : 'gate' });
}

/** Walks back from the first paint; what the hero waited for, where that is painted before a script has made the content. */
export function firstPaintPath(graph: LoadGraph, trace: Trace, heroFetch: number, fcpMs: number): PathStep[] {
  const maker = graph.document.contentBuiltBy ?? -1;
  const madeMs = maker >= 0 ? (trace.scriptEnd[maker] as number) : 0;
  if (heroFetch >= 0 && (madeMs < 0 || madeMs > fcpMs)) return criticalPath(graph, trace, heroFetch, fcpMs);
  const why = 'drawn once nothing held back the first paint';
  const paint: PathStep = { kind: 'paint', id: -1, fromMs: Math.min(trace.gateMs, fcpMs), toMs: fcpMs, why };
  return walkBack(graph, trace, paint, { by: 'gate' });
}

/** Walks back from the load event: the last file that held it back. */
export function loadPath(graph: LoadGraph, trace: Trace, loadMs: number): PathStep[] {
  const last = lastHolding(graph, trace, loadMs);
  const from = last < 0 ? trace.dclMs : Math.max(trace.dclMs, trace.done[last] as number);
  const why = 'fired once everything that holds it back was there';
  const fired: PathStep = { kind: 'paint', id: -1, fromMs: Math.min(from, loadMs), toMs: loadMs, why };
  return walkBack(graph, trace, fired, last < 0 ? { by: 'gate' } : { by: 'file', id: last });
}

/** Of the fetches that hold back the load event, the one that ended last before a time; -1 for none. */
function lastHolding(graph: LoadGraph, trace: Trace, beforeMs: number): number {
  let last = -1;
  for (const f of graph.fetches) {
    const done = trace.done[f.id] as number;
    if (f.holdsLoad && done >= 0 && done <= beforeMs && (last < 0 || done > (trace.done[last] as number))) last = f.id;
  }
  return last;
}

/** From a last step back to the navigation. */
function walkBack(graph: LoadGraph, trace: Trace, end: PathStep, origin: Origin): PathStep[] {
  const steps: PathStep[] = [end];
  const seen = new Set<string>();
  const addFetch = (id: number): void => {
    if (seen.has('f' + id) || steps.length > 40) return;
    seen.add('f' + id);
    const kind = CAUSES[trace.causeKind[id] as number] ?? 'navigation';
    const cause = trace.causeId[id] as number;
    const hinted =
      graph.fetches[id]?.early && (trace.found[id] as number) < (trace.first[graph.document.fetch] as number);
    const why = hinted ? EARLY : kind === 'document' && inHeaders(graph, id) ? IN_HEADERS : WHY[kind];
    steps.push({ kind: 'fetch', id, fromMs: trace.found[id] as number, toMs: trace.done[id] as number, why });
    if (hinted) addFetch(graph.document.fetch);
    else if (kind === 'script') addScript(cause);
    else if (kind === 'style' || kind === 'fetch') addFetch(cause >= 0 ? cause : graph.document.fetch);
    else if (kind === 'event') addParserEnd();
    else if (kind !== 'navigation') addGate(kind === 'layout');
  };
  /** The script whose end let the parser finish, or the document itself. */
  const addParserEnd = () => {
    const last = latestScript(graph, trace, trace.dclMs);
    if (last >= 0) addScript(last);
    else addFetch(graph.document.fetch);
  };
  const addGate = (painted: boolean): void => {
    const script = trace.gateScript >= 0 ? (trace.scriptEnd[trace.gateScript] as number) : -1;
    const style = trace.gateStyle >= 0 ? (trace.done[trace.gateStyle] as number) : -1;
    const maker = lastOpener(graph, trace);
    const made = maker >= 0 ? (trace.scriptEnd[maker] as number) : -1;
    if (painted && made >= Math.max(style, script, 0)) addScript(maker);
    else if (painted && style > script) addFetch(trace.gateStyle);
    else if (painted && script >= 0) addScript(trace.gateScript);
    else addFetch(graph.document.fetch);
  };
  const addScript = (id: number): void => {
    const script = graph.scripts[id];
    if (!script || seen.has('s' + id) || steps.length > 40) return addFetch(graph.document.fetch);
    seen.add('s' + id);
    if (script.after) return addCallback(script);
    const startMs = trace.scriptStart[id] as number;
    const style = trace.scriptStyle[id] as number;
    const arrived = script.fetch >= 0 ? (trace.done[script.fetch] as number) : -1;
    const before =
      script.mode === 'sync' || script.mode === 'inline' || script.mode === 'defer'
        ? latestScript(graph, trace, startMs)
        : -1;
    const beforeMs = before >= 0 ? (trace.scriptEnd[before] as number) : -1;
    const styleMs = style >= 0 ? (trace.done[style] as number) : -1;
    const why =
      styleMs >= Math.max(arrived, beforeMs) && style >= 0
        ? 'had to wait for a stylesheet before it'
        : beforeMs > arrived
          ? 'had to wait for the script before it'
          : script.fetch >= 0
            ? 'ran when it had arrived'
            : 'ran when the parser came to it';
    steps.push({ kind: 'script', id, fromMs: startMs, toMs: trace.scriptEnd[id] as number, why });
    if (style >= 0 && styleMs >= Math.max(arrived, beforeMs)) addFetch(style);
    else if (before >= 0 && beforeMs > arrived) addScript(before);
    else if (script.fetch >= 0) addFetch(script.fetch);
    else addFetch(graph.document.fetch);
  };
  /** Later work: what set it off. */
  const addCallback = (script: ScriptNode): void => {
    const after = script.after as Trigger;
    const why =
      after.by === 'fetch'
        ? 'ran when an answer had come'
        : after.by === 'event'
          ? after.event === 'load'
            ? 'ran after the page had loaded'
            : 'ran after the page was parsed'
          : 'ran some time after a script';
    steps.push({
      kind: 'script',
      id: script.id,
      fromMs: trace.scriptStart[script.id] as number,
      toMs: trace.scriptEnd[script.id] as number,
      why,
    });
    if (after.by === 'fetch') return addFetch(after.fetch);
    if (after.by === 'script') return addScript(after.script);
    if (after.event === 'dcl') return addParserEnd();
    const last = lastHolding(graph, trace, trace.scriptStart[script.id] as number);
    return last < 0 ? addParserEnd() : addFetch(last);
  };
  /** What brought the hero's element: a script that builds it, an event, or the parser, which something held up. */
  const addElement = () => {
    const { builtBy, afterEvent } = graph.hero;
    if (builtBy >= 0) return addScript(builtBy);
    if (afterEvent === 'load') {
      const last = lastHolding(graph, trace, trace.heroElementMs);
      return last < 0 ? addParserEnd() : addFetch(last);
    }
    if (afterEvent === 'dcl') return addParserEnd();
    const script = latestScript(graph, trace, trace.heroElementMs);
    const scriptMs = script >= 0 ? (trace.scriptEnd[script] as number) : -1;
    const styleMs = trace.heroStyle >= 0 ? (trace.done[trace.heroStyle] as number) : -1;
    if (styleMs > scriptMs) addFetch(trace.heroStyle);
    else if (script >= 0) addScript(script);
    else addFetch(graph.document.fetch);
  };
  if (origin.by === 'file') addFetch(origin.id);
  else if (origin.by === 'element') addElement();
  else addGate(true);
  return steps.reverse();
}

/** Of the scripts that make the content or hold back the first paint the one that ended last before it; -1 for none. */
function lastOpener(graph: LoadGraph, trace: Trace): number {
  let last = -1;
  for (const { id, holdsPaint } of graph.scripts) {
    if (!holdsPaint && id !== graph.document.contentBuiltBy) continue;
    const end = trace.scriptEnd[id] as number;
    if (end < 0 || end > trace.gateMs + 0.01) continue;
    if (last < 0 || end > (trace.scriptEnd[last] as number)) last = id;
  }
  return last;
}

/** The script of the parser's own order that ended last before a time; -1 for none. */
function latestScript(graph: LoadGraph, trace: Trace, beforeMs: number): number {
  let last = -1;
  for (const s of graph.scripts) {
    if (/^(async|dynamic|import|callback)$/.test(s.mode)) continue;
    const end = trace.scriptEnd[s.id] as number;
    if (end >= 0 && end <= beforeMs + 0.01 && (last < 0 || end > (trace.scriptEnd[last] as number))) last = s.id;
  }
  return last;
}

/** A Link header of the page names it: no tag ends where the document begins. */
function inHeaders(graph: LoadGraph, id: number): boolean {
  const discovery = graph.fetches[id]?.discovery;
  return discovery?.by === 'scanner' && discovery.offset === 0;
}

const EARLY = 'named by Early Hints: asked for before the page was there';
const IN_HEADERS = 'named by a header of the page';
const WHY: Readonly<Record<Cause['kind'], string>> = {
  navigation: 'the visit starts here',
  document: 'found when its tag arrived',
  style: 'named by a stylesheet, found when that was in',
  script: 'asked for by a script, found when that had run',
  layout: 'lazy or drawn by style: found only after layout',
  event: 'asked for by a script after the page was parsed',
  fetch: 'follows another load',
};
