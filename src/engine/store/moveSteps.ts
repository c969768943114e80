import type { Store } from './store';

/** What people have noted about a step of a move. */
export interface MoveStepRow {
  readonly step: string;
  readonly state: 'open' | 'doing' | 'done' | 'skipped';
  readonly owner: string;
  /** YYYY-MM-DD. */
  readonly due: string | null;
  readonly note: string;
}

export function listMoveSteps(store: Store, siteId: number): Promise<MoveStepRow[]> {
  return store
    .selectFrom('move_steps')
    .select(['step', 'state', 'owner', 'due', 'note'])
    .where('site_id', '=', siteId)
    .execute();
}

/** Notes something about a step; what is undefined stays as it was. */
export async function saveMoveStep(
  store: Store,
  siteId: number,
  step: string,
  change: Partial<Omit<MoveStepRow, 'step'>>,
): Promise<MoveStepRow> {
  const set = Object.fromEntries(Object.entries(change).filter(([, v]) => v !== undefined));
  return store
    .insertInto('move_steps')
    .values({ site_id: siteId, step, state: 'open', owner: '', due: null, note: '', ...set })
    .onConflict((c) => c.columns(['site_id', 'step']).doUpdateSet({ step, ...set }))
    .returning(['step', 'state', 'owner', 'due', 'note'])
    .executeTakeFirstOrThrow();
}
