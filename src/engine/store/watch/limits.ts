import type { LimitResult, WatchLimit } from '../../../core/watch/limits';
import type { Store } from '../store';

/** A limit of a site. */
export interface WatchLimitRow extends WatchLimit {
  readonly id: number;
}

/** What a limit came to in a sweep. */
export interface LimitResultRow extends LimitResult {
  readonly limitId: number;
  readonly sweepId: number;
  /** Day of the sweep, YYYY-MM-DD. */
  readonly day: string;
  readonly judgedAt: string;
  /** The sweep since which it has been broken without a break. */
  readonly brokenSince: number | null;
}

/** Limits of one site at most. */
export const MOST_LIMITS = 200;

export async function listWatchLimits(store: Store, siteId: number): Promise<WatchLimitRow[]> {
  const rows = await store
    .selectFrom('watch_limits')
    .select(['id', 'content'])
    .where('site_id', '=', siteId)
    .orderBy('id')
    .execute();
  return rows.map((r) => ({ ...(JSON.parse(r.content) as WatchLimit), id: r.id }));
}

export async function addWatchLimit(store: Store, siteId: number, limit: WatchLimit): Promise<number> {
  const { id } = await store
    .insertInto('watch_limits')
    .values({ site_id: siteId, content: JSON.stringify(limit), created_at: new Date().toISOString() })
    .returning('id')
    .executeTakeFirstOrThrow();
  return id;
}

/** Changes a limit; what it came to before was another question, and goes. False when there is none. */
export async function changeWatchLimit(store: Store, siteId: number, id: number, limit: WatchLimit): Promise<boolean> {
  return store.transaction().execute(async (tx) => {
    const result = await tx
      .updateTable('watch_limits')
      .set({ content: JSON.stringify(limit) })
      .where('site_id', '=', siteId)
      .where('id', '=', id)
      .executeTakeFirst();
    await tx.deleteFrom('limit_results').where('limit_id', '=', id).execute();
    return result.numUpdatedRows > 0n;
  });
}

export async function removeWatchLimit(store: Store, siteId: number, id: number): Promise<boolean> {
  const result = await store
    .deleteFrom('watch_limits')
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .executeTakeFirst();
  return result.numDeletedRows > 0n;
}

/** What the limits of a site came to, the latest sweep first. */
export async function limitResults(store: Store, siteId: number): Promise<LimitResultRow[]> {
  const rows = await store
    .selectFrom('limit_results')
    .innerJoin('watch_limits', 'watch_limits.id', 'limit_results.limit_id')
    .innerJoin('sweeps', 'sweeps.id', 'limit_results.sweep_id')
    .selectAll('limit_results')
    .select('sweeps.day')
    .where('watch_limits.site_id', '=', siteId)
    .orderBy('sweeps.day', 'desc')
    .orderBy('sweeps.id', 'desc')
    .execute();
  return rows.map((r) => ({
    limitId: r.limit_id,
    sweepId: r.sweep_id,
    day: r.day,
    judgedAt: r.judged_at,
    value: r.value,
    range: r.low === null || r.high === null ? undefined : [r.low, r.high],
    over: r.over === 1,
    broken: r.broken === 1,
    brokenSince: r.broken_since,
  }));
}

/** Keeps what a limit came to in a sweep; judged again it takes the place of what was there. */
export async function saveLimitResult(store: Store, row: Omit<LimitResultRow, 'day'>): Promise<void> {
  const values = {
    judged_at: row.judgedAt,
    value: row.value,
    low: row.range?.[0] ?? null,
    high: row.range?.[1] ?? null,
    over: row.over ? 1 : 0,
    broken: row.broken ? 1 : 0,
    broken_since: row.brokenSince,
  };
  await store
    .insertInto('limit_results')
    .values({ limit_id: row.limitId, sweep_id: row.sweepId, ...values })
    .onConflict((c) => c.columns(['limit_id', 'sweep_id']).doUpdateSet(values))
    .execute();
}
