import { hostOf } from '../capture/url';
import type { LoadGraph } from './graph';

/** What connections are kept for: an origin, with or without credentials (Fetch, 2.6). */
export interface Pool {
  readonly host: string;
  readonly h2: boolean;
  readonly secure: boolean;
  /** Beyond its round trips, in ms. */
  readonly setupMs: number;
  readonly byUrgency: boolean;
}

const keyOf = (origin: string, anonymous: boolean | undefined) => (anonymous ? `${origin} anonymous` : origin);

/** Pools of a graph, the pool of each fetch, and that of each hint to connect (-1 for one that nothing uses). */
export function poolsOf(graph: LoadGraph): { pools: Pool[]; poolOf: Int32Array; hinted: Int32Array } {
  const index = new Map<string, number>();
  const pools: Pool[] = [];
  const poolOf = new Int32Array(graph.fetches.length);
  for (const f of graph.fetches) {
    const key = keyOf(f.origin, f.anonymous);
    let at = index.get(key);
    if (at === undefined) {
      at = pools.length;
      index.set(key, at);
      pools.push({
        host: hostOf(f.origin),
        h2: f.protocol === 'h2',
        secure: f.secure,
        setupMs: f.setupMs,
        byUrgency: graph.byUrgency.includes(f.origin),
      });
    }
    poolOf[f.id] = at;
  }
  const hinted = Int32Array.from(graph.preconnects, (p) => index.get(keyOf(p.origin, p.anonymous)) ?? -1);
  return { pools, poolOf, hinted };
}
