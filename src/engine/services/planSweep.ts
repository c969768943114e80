import { deviceOf, type Visitor } from '../../core/load/visitors';
import { sitePlan } from '../../core/plan/sitePlan';
import { deviceIn, getAudits, listCaptures } from '../store/captures';
import { concernsOfFindings } from '../store/findings';
import { linksInto } from '../store/pageLinks';
import type { Store } from '../store/store';

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
  const device = await deviceIn(store, sweepId, deviceOf(visitor));
  const audits = await getAudits(store, await listCaptures(store, sweepId, device));
  const concerns = await concernsOfFindings(
    store,
    audits.map((a) => a.row.id),
  );
  const links = await linksInto(
    store,
    sweepId,
    audits.map((a) => a.row.page),
  );
  const plan = sitePlan(
    audits.map(({ row, audit }) => ({
      graph: audit.graph,
      // A fix of nothing but muted findings is not offered.
      fixes: audit.fixes.filter((f) => f.findings.some((id) => id in (concerns.get(row.id) ?? {}))),
      weight: (links.get(row.page) ?? 0) + 1,
    })),
    visitor,
    minutes,
  );
  return {
    visitor: visitor.id,
    pages: audits.length,
    minutes,
    effort: plan.effort,
    nowMs: plan.nowMs,
    afterMs: plan.afterMs,
    groups: plan.groups.map(({ id, title, effort, pages }) => ({ id, title, effort, pages })),
  };
}
