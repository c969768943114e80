import type { Store } from './store';

/** Addresses that are given at most. */
const MAX_ADDRESSES = 50_000;

/** Addresses of a site: those of its last sweep that has any, else of its captures. */
export async function knownAddresses(
  store: Store,
  siteId: number,
): Promise<{ addresses: string[]; day?: string; total: number }> {
  const sweep = await store
    .selectFrom('sweeps')
    .innerJoin('pages', 'pages.sweep_id', 'sweeps.id')
    .select((e) => ['sweeps.id', 'sweeps.day', e.fn.countAll<number>().as('total')])
    .where('sweeps.site_id', '=', siteId)
    .groupBy('sweeps.id')
    .orderBy('sweeps.id', 'desc')
    .limit(1)
    .executeTakeFirst();
  if (sweep) {
    const rows = await store
      .selectFrom('pages')
      .select('url')
      .where('sweep_id', '=', sweep.id)
      .orderBy('url')
      .limit(MAX_ADDRESSES)
      .execute();
    return { addresses: rows.map((r) => r.url), day: sweep.day, total: sweep.total };
  }
  const rows = await store
    .selectFrom('captures')
    .select('page')
    .distinct()
    .where('site_id', '=', siteId)
    .orderBy('page')
    .execute();
  return { addresses: rows.map((r) => r.page), total: rows.length };
}
