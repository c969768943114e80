import { deviceOf, type Visitor } from '../../core/load/visitors';
import { sitePlan } from '../../core/plan/sitePlan';
import type { Store } from '../store/store';
import { benchPages } from './benchPages';

/** A plan for a sweep as it is answered. */
export interface SweepPlan {
  readonly visitor: string;
  readonly pages: number;
  /** Minutes that were given, and that the plan takes. */
  readonly minutes: number;
  readonly effort: number;
  /** Hero paint of the average visit, in ms. */
  readonly nowMs: number;
  readonly afterMs: number;
  /** In the best order. */
  readonly groups: readonly {
    readonly id: string;
    readonly title: string;
    readonly effort: number;
    readonly pages: number;
  }[];
}

/** The best plan for an effort over all captures of a sweep; a page counts as often as links lead to it, and once more. */
export async function planSweep(store: Store, sweepId: number, visitor: Visitor, minutes: number): Promise<SweepPlan> {
  const { pages } = await benchPages(store, sweepId, deviceOf(visitor));
  const plan = sitePlan(
    pages.map(({ graph, fixes, linksIn }) => ({ graph, fixes, weight: linksIn + 1 })),
    visitor,
    minutes,
  );
  return {
    visitor: visitor.id,
    pages: pages.length,
    minutes,
    effort: plan.effort,
    nowMs: plan.nowMs,
    afterMs: plan.afterMs,
    groups: plan.groups.map(({ id, title, effort, pages }) => ({ id, title, effort, pages })),
  };
}
