import { exhaustiveOrder, exhaustiveWithin, bestOrder, bestWithin, meanOfOrder } from '../../src/core/plan/search';
import { averageWith } from '../../src/core/plan/averages';
import { groupFixes, type FixGroup } from '../../src/core/plan/staircase';
import { quantile } from '../../src/core/load/range';
import type { Judged } from './compare';
import { LINKS } from './site';

/** How far greedy plans are from the best ones, as shares of what the best one wins. */
export interface PlanGap {
  readonly benches: number;
  readonly median: number;
  readonly worst: number;
  /** Benches on which greedy search finds the best. */
  readonly found: number;
  /** Simulations of greedy search against those of exhaustive search. */
  readonly evaluations: number;
  readonly exhaustive: number;
}

const MOST_WITHIN = 9;
const MOST_ORDER = 6;

/** Plans for half of all effort, and orders, on the fixes that the tool offers for each page. */
export function planGaps(pages: readonly Judged[]): { within: PlanGap; order: PlanGap } {
  const within: Gap[] = [];
  const order: Gap[] = [];
  for (const { audit } of pages) {
    for (const link of LINKS) {
      const plan = [{ graph: audit.graph, fixes: audit.fixes }];
      const groups = groupFixes(plan);
      const byId = new Map(groups.map((g) => [g.id, g]));
      const value = (ids: readonly string[]) =>
        averageWith(
          plan,
          ids.flatMap((id) => byId.get(id)?.fixes ?? []),
          link,
        ).lcpMs;
      const now = value([]);
      const few = groups.slice(0, MOST_WITHIN);
      const minutes = few.reduce((sum, g) => sum + g.effort, 0) / 2;
      const best = exhaustiveWithin(few, value, minutes);
      const made = bestWithin(few, value, minutes);
      within.push(gap(now - best.value, now - made.value, made.evaluations, best.evaluations));
      // Orders are compared by where their steps are on average, on the fixes that win most alone.
      const strongest = strong(groups, value).slice(0, MOST_ORDER);
      const ideal = exhaustiveOrder(strongest, value);
      const found = bestOrder(strongest, value);
      const mean = meanOfOrder(
        found.steps.map((s) => s.id),
        value,
      );
      order.push(gap(now - ideal.mean, now - mean, found.evaluations, 2 ** strongest.length));
    }
  }
  return { within: summary(within), order: summary(order) };
}

interface Gap {
  readonly share: number;
  readonly evaluations: number;
  readonly exhaustive: number;
}

/** Of what wins less than 20 ms at best nothing can be missed. */
const gap = (best: number, made: number, evaluations: number, exhaustive: number): Gap => ({
  share: best < 20 ? 0 : Math.max(0, (best - made) / best),
  evaluations,
  exhaustive,
});

function strong(groups: readonly FixGroup[], value: (ids: readonly string[]) => number): FixGroup[] {
  const alone = new Map(groups.map((g) => [g.id, value([g.id])]));
  return [...groups].sort((a, b) => (alone.get(a.id) ?? 0) - (alone.get(b.id) ?? 0));
}

function summary(gaps: readonly Gap[]): PlanGap {
  const shares = gaps.map((g) => g.share).sort((a, b) => a - b);
  return {
    benches: gaps.length,
    median: quantile(shares, 0.5),
    worst: Math.max(0, ...shares),
    found: shares.filter((s) => s < 0.005).length,
    evaluations: gaps.reduce((sum, g) => sum + g.evaluations, 0),
    exhaustive: gaps.reduce((sum, g) => sum + g.exhaustive, 0),
  };
}
