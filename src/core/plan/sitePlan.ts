import type { Link } from '../load/graph';
import { bestOrder, bestWithin } from './search';
import { averagesOf } from './groupAverages';
import { groupFixes, type FixGroup, type PlanPage } from './staircase';

/** A plan over all captured pages: what to do for an effort, in which order, and where it leads. */
export interface SitePlan {
  /** In the best order. */
  readonly groups: readonly FixGroup[];
  readonly effort: number;
  /** Hero paint of the average visit, in ms. */
  readonly nowMs: number;
  readonly afterMs: number;
}

/**
 * The best plan for an effort in minutes over all pages of a sweep, each page counting by its weight (links in, as
 * worth does).
 */
export function sitePlan(pages: readonly PlanPage[], link: Link, minutes: number): SitePlan {
  const groups = groupFixes(pages);
  const byId = new Map(groups.map((g) => [g.id, g]));
  const after = averagesOf(pages, groups, link);
  const reached = (ids: readonly string[]) => after(ids).lcpMs;
  const chosen = bestWithin(groups, reached, minutes);
  const order = bestOrder(
    groups.filter((g) => chosen.ids.includes(g.id)),
    reached,
  );
  return {
    groups: order.steps.flatMap((s) => byId.get(s.id) ?? []),
    effort: chosen.effort,
    nowMs: reached([]),
    afterMs: chosen.value,
  };
}
