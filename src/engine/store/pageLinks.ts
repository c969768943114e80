import type { Store } from './store';

/** How many links lead to each of these pages of a sweep; pages that were not crawled are left out. */
export async function linksInto(store: Store, sweepId: number, urls: readonly string[]): Promise<Map<string, number>> {
  if (urls.length === 0) return new Map();
  const rows = await store
    .selectFrom('pages')
    .select(['url', 'links_in'])
    .where('sweep_id', '=', sweepId)
    .where('url', 'in', [...urls])
    .execute();
  return new Map(rows.map((r) => [r.url, Number(r.links_in ?? 0)]));
}
