import type { Outcome } from '../../core/proof/outcomeWords';
import type { Store } from './store';

/** An outcome as it is kept. */
export interface OutcomeRow {
  readonly id: number;
  readonly planId: number;
  readonly sweepId: number | null;
  /** Found by a check of these pages only, or by a sweep. */
  readonly by: 'check' | 'sweep';
  readonly lookedAt: string;
  readonly outcome: Outcome;
}

/** Outcomes of a plan, the latest first. */
export async function listOutcomes(store: Store, planId: number): Promise<OutcomeRow[]> {
  const rows = await store
    .selectFrom('outcomes')
    .select(['id', 'plan_id as planId', 'sweep_id as sweepId', 'by', 'looked_at as lookedAt', 'outcome'])
    .where('plan_id', '=', planId)
    .orderBy('id', 'desc')
    .limit(100)
    .execute();
  return rows.map((r) => ({ ...r, outcome: JSON.parse(r.outcome) as Outcome }));
}

/** Keeps an outcome; one of the same sweep and plan takes its place. */
export async function addOutcome(
  store: Store,
  row: Omit<OutcomeRow, 'id'> & { readonly siteId: number },
): Promise<void> {
  await store.transaction().execute(async (tx) => {
    if (row.by === 'sweep')
      await tx
        .deleteFrom('outcomes')
        .where('plan_id', '=', row.planId)
        .where('by', '=', 'sweep')
        .where('looked_at', '=', row.lookedAt)
        .execute();
    await tx
      .insertInto('outcomes')
      .values({
        site_id: row.siteId,
        plan_id: row.planId,
        sweep_id: row.sweepId,
        by: row.by,
        looked_at: row.lookedAt,
        outcome: JSON.stringify(row.outcome),
      })
      .execute();
  });
}
