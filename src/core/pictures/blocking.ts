import { isThirdParty } from '../capture/site';
import type { LoadKind } from '../capture/capture';
import { fileOfScript, type LoadGraph, type ScriptNode, type StyleNode } from '../load/graph';
import type { PathStep } from '../load/replay';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';

/** One link of the chain that the first paint waits for. */
export interface ChainLink {
  readonly step: PathStep['kind'];
  /** Address of the file, also of one whose script runs; undefined for an inline script and for the paint. */
  readonly url?: string;
  readonly kind?: LoadKind;
  /** As transferred; 0 for work. */
  readonly bytes: number;
  readonly fromMs: number;
  readonly toMs: number;
  /** Why it could not begin earlier. */
  readonly why: string;
  readonly thirdParty: boolean;
  /** Share of the file that the first screen uses, 0 to 1; undefined where that was not examined. */
  readonly usedShare?: number;
  /** First paint earlier by so many ms when nothing waits for it; undefined for what no page can do without. */
  readonly withoutMs?: number;
}

/** What stands between a visitor and the first paint of a page. */
export interface FirstPaintPicture {
  readonly fcpMs: number;
  /** From the navigation to the paint. */
  readonly chain: readonly ChainLink[];
  /** First paint earlier by so many ms when it waits for no script and no stylesheet at all. */
  readonly withoutAllMs: number;
}

/**
 * The chain to the first paint as simulated, and what taking each link out of it would win; a pure function.
 * @param used share of each file that the first screen uses, by address
 */
export function firstPaintPicture(
  graph: LoadGraph,
  visitor: Visitor,
  used: ReadonlyMap<string, number>,
): FirstPaintPicture {
  const { milestones, fcpPath } = simulate(graph, visitor);
  const { fcpMs } = milestones;
  const own = { capture: { page: graph.page } };
  const chain = [...fcpPath]
    .sort((a, b) => a.fromMs - b.fromMs || a.toMs - b.toMs)
    .map((step): ChainLink => {
      const fetch =
        graph.fetches[step.kind === 'fetch' ? step.id : step.kind === 'script' ? fileOfScript(graph, step.id) : -1];
      const freed = freeOf(graph, step);
      return {
        step: step.kind,
        url: fetch?.url,
        kind: fetch?.kind,
        bytes: step.kind === 'fetch' && fetch ? fetch.headerBytes + fetch.bodyBytes : 0,
        fromMs: step.fromMs,
        toMs: step.toMs,
        why: step.why,
        thirdParty: fetch !== undefined && isThirdParty(own, fetch.url),
        ...(fetch && used.has(fetch.url) && { usedShare: used.get(fetch.url) }),
        ...(freed && { withoutMs: Math.max(0, fcpMs - simulate(freed, visitor).milestones.fcpMs) }),
      };
    });
  const free = simulate(
    freed(graph, () => true),
    visitor,
  ).milestones.fcpMs;
  return { fcpMs, chain, withoutAllMs: Math.max(0, fcpMs - free) };
}

/** The graph with nothing waiting for a step; undefined when nothing waits for it. */
function freeOf(graph: LoadGraph, step: PathStep): LoadGraph | undefined {
  const file = step.kind === 'script' ? fileOfScript(graph, step.id) : step.kind === 'fetch' ? step.id : -1;
  const out = freed(
    graph,
    (node) => ('mode' in node && step.kind === 'script' && node.id === step.id) || (file >= 0 && node.fetch === file),
  );
  return out === graph ? undefined : out;
}

/**
 * The graph in which some styles hold nothing back, some scripts run when they like, and content waits for none that makes
 * it; itself when none is meant.
 */
function freed(graph: LoadGraph, meant: (node: ScriptNode | StyleNode) => boolean): LoadGraph {
  const styles = graph.styles.map((s) => (s.blocking && meant(s) ? { ...s, blocking: false } : s));
  const scripts = graph.scripts.map((s) => {
    if (!meant(s)) return s;
    if (s.holdsPaint) return { ...s, holdsPaint: undefined };
    if (s.mode !== 'sync' && s.mode !== 'inline') return s;
    return s.fetch < 0 ? { ...s, runMs: 0 } : { ...s, mode: 'async' as const };
  });
  const maker = graph.scripts[graph.document.contentBuiltBy ?? -1];
  const isMeant = maker && (meant(maker) || meant({ ...maker, fetch: fileOfScript(graph, maker.id) }));
  const document = isMeant ? { ...graph.document, contentBuiltBy: -1 } : graph.document;
  const changed =
    isMeant || styles.some((s, i) => s !== graph.styles[i]) || scripts.some((s, i) => s !== graph.scripts[i]);
  return changed ? { ...graph, styles, scripts, document } : graph;
}
