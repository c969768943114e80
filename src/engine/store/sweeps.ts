import type { Store } from './store';

/** A sweep as listed. */
export interface SweepRow {
  readonly id: number;
  readonly siteId: number;
  readonly day: string;
  readonly captures: number;
}

/** Sweeps of a site, the latest first. */
export async function listSweeps(store: Store, siteId: number): Promise<SweepRow[]> {
  return store
    .selectFrom('sweeps')
    .leftJoin('captures', 'captures.sweep_id', 'sweeps.id')
    .select((e) => [
      'sweeps.id',
      'sweeps.site_id as siteId',
      'sweeps.day',
      e.fn.count<number>('captures.id').as('captures'),
    ])
    .where('sweeps.site_id', '=', siteId)
    .groupBy('sweeps.id')
    .orderBy('sweeps.day', 'desc')
    .execute();
}

export async function findSweep(
  store: Store,
  id: number,
): Promise<{ id: number; siteId: number; day: string } | undefined> {
  return store.selectFrom('sweeps').select(['id', 'site_id as siteId', 'day']).where('id', '=', id).executeTakeFirst();
}
