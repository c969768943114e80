import type { LoadGraph } from '../load/graph';
import type { FetchTimes, PathStep, Replay } from '../load/replay';
import type { Visited } from './proof';

/** One request of a measured visit, in ms since the navigation; -1 for what never came. */
export interface MeasuredRequest {
  readonly url: string;
  readonly foundMs: number;
  readonly sentMs: number;
  readonly firstByteMs: number;
  readonly endMs: number;
}

/** One visit with its requests, in the order in which they were made. */
export interface MeasuredLoad extends Visited {
  readonly requests: readonly MeasuredRequest[];
}

/** One side of a proof: what was loaded, when by the forecast, and when in a typical visit. */
export interface ProvedSide {
  readonly graph: LoadGraph;
  readonly forecast: Replay;
  readonly measured: Replay;
}

/** How the load of a proved page unfolds without and with the fixes. */
export interface ProofStory {
  readonly before: ProvedSide;
  readonly after: ProvedSide;
}

/** The visit whose hero paint lies in the middle; undefined for none. */
export function typicalOf<T extends MeasuredLoad>(visits: readonly T[]): T | undefined {
  return [...visits].sort((a, b) => a.lcpMs - b.lcpMs)[Math.floor((visits.length - 1) / 2)];
}

/**
 * A measured visit in the form of a simulated one, so that both are drawn alike: requests have the times that were
 * measured, in the same part of the story; when scripts ran was not measured, and is left out.
 * @param graph what was loaded, with the fixes where they were made
 * @param simulated the same load as forecast
 */
export function measuredReplay(graph: LoadGraph, simulated: Replay, load: MeasuredLoad): Replay {
  const { fcpMs, lcpMs, loadMs, bytes, requests } = load;
  const left = new Map<string, MeasuredRequest[]>();
  for (const request of requests) left.set(request.url, [...(left.get(request.url) ?? []), request]);
  const fetches = graph.fetches.map((f, id): FetchTimes => {
    const { cause } = simulated.fetches[id] as FetchTimes;
    const { foundMs = -1, sentMs = -1, firstByteMs = -1, endMs = -1 } = left.get(f.url)?.shift() ?? {};
    return { foundMs, sentMs, firstByteMs, endMs, cause };
  });
  const measured = (path: readonly PathStep[], paintMs: number) =>
    path.flatMap((step): PathStep[] => {
      if (step.kind === 'script') return [];
      if (step.kind === 'paint') return [{ ...step, fromMs: lastEnd(path, fetches, paintMs), toMs: paintMs }];
      const t = fetches[step.id];
      return t && t.foundMs >= 0 ? [{ ...step, fromMs: t.foundMs, toMs: t.endMs }] : [];
    });
  return {
    ...simulated,
    milestones: {
      ...simulated.milestones,
      ttfbMs: fetches[graph.document.fetch]?.firstByteMs ?? -1,
      fcpMs,
      lcpMs,
      loadMs,
      bytes,
      requests: requests.length,
    },
    fetches,
    scripts: simulated.scripts.map(() => ({ startMs: -1, endMs: -1 })),
    path: measured(simulated.path, lcpMs),
    fcpPath: measured(simulated.fcpPath, fcpMs),
    loadPath: measured(simulated.loadPath, loadMs),
    heroPlace: placeOf(graph, requests),
  };
}

/** When the last file of a path was there, at the latest when it was painted. */
function lastEnd(path: readonly PathStep[], fetches: readonly FetchTimes[], paintMs: number): number {
  const ends = path.flatMap((s) => (s.kind === 'fetch' ? [fetches[s.id]?.endMs ?? 0] : []));
  return Math.max(0, Math.min(paintMs, Math.max(0, ...ends)));
}

function placeOf(graph: LoadGraph, requests: readonly MeasuredRequest[]): number {
  const url = graph.fetches[graph.hero.fetch]?.url;
  return url === undefined ? 0 : requests.findIndex((r) => r.url === url) + 1;
}
