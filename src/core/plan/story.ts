import type { LoadGraph } from '../load/graph';
import type { Replay } from '../load/replay';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';

/** How the load of one recorded page unfolds for a visitor while nothing is on the bench. */
export interface PageStory {
  readonly captureId: number;
  readonly now: Replay;
  readonly graph: LoadGraph;
}

/** Simulates a page for a visitor; plain values, to be sent. */
export const pageStory = (captureId: number, graph: LoadGraph, visitor: Visitor): PageStory => ({
  captureId,
  now: plainReplay(simulate(graph, visitor)),
  graph,
});

/** A replay whose lazily made parts are made: only plain values can be sent. */
export function plainReplay(r: Replay): Replay {
  return {
    milestones: r.milestones,
    split: r.split,
    fetches: r.fetches,
    scripts: r.scripts,
    path: r.path,
    fcpPath: r.fcpPath,
    loadPath: r.loadPath,
    heroPlace: r.heroPlace,
  };
}
