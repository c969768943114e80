import type { Discovery, LoadGraph } from '../load/graph';
import type { HeroSplit } from '../load/replay';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';

/** Where the hero of a page stands in the queue for one visitor, and where its time goes. */
export interface HeroPicture {
  readonly lcpMs: number;
  readonly split: HeroSplit;
  /** Place of its file in the order of discovery, from 1; 0 for text. */
  readonly place: number;
  readonly requests: number;
  /** How the browser discovers its file; undefined for text. */
  readonly foundBy?: Discovery['by'];
  /** Bytes of its file as transferred; 0 for text. */
  readonly bytes: number;
  /** What the browser had found before it. */
  readonly ahead: {
    readonly requests: number;
    readonly bytes: number;
    readonly pictures: number;
    /** Pictures among them that this visitor never sees. */
    readonly hidden: number;
  };
}

/**
 * Simulates a page as recorded and says how its hero fares; a pure function.
 * @param unseen addresses of pictures that are never shown to this visitor
 */
export function heroPicture(graph: LoadGraph, visitor: Visitor, unseen: ReadonlySet<string>): HeroPicture {
  const { milestones, split, fetches, heroPlace } = simulate(graph, visitor);
  const hero = graph.fetches[graph.hero.fetch];
  const at = hero && fetches[hero.id]?.foundMs;
  const ahead =
    hero && at !== undefined && heroPlace > 0
      ? graph.fetches.filter((f) => {
          const found = fetches[f.id]?.foundMs ?? -1;
          return f.id !== hero.id && found >= 0 && (found < at || (found === at && f.id < hero.id));
        })
      : [];
  const pictures = ahead.filter((f) => f.kind === 'image');
  return {
    lcpMs: milestones.lcpMs,
    split,
    place: heroPlace,
    requests: milestones.requests,
    foundBy: hero?.discovery.by,
    bytes: hero ? hero.headerBytes + hero.bodyBytes : 0,
    ahead: {
      requests: ahead.length,
      bytes: ahead.reduce((sum, f) => sum + f.headerBytes + f.bodyBytes, 0),
      pictures: pictures.length,
      hidden: pictures.filter((f) => unseen.has(f.url)).length,
    },
  };
}
