import type { Store } from '../../engine/store/store';

/** Tables whose rows belong to a site, by the part of the path that names one of them. */
const TABLES = { sweeps: 'sweeps', captures: 'captures', proofs: 'proofs', jobs: 'jobs' } as const;

/**
 * The sites that the address of a request leads to: the one of what its path names, and of each sweep, page or capture that
 * its query names. `none` where it leads to no site, `unknown` where what it names is not there.
 */
export async function sitesOfRequest(store: Store, url: URL): Promise<number[] | 'none' | 'unknown'> {
  const [, first, second] = url.pathname.replace(/^\/api\//, '/').split('/');
  const own =
    first === undefined || second === undefined || !/^\d/.test(second) ? undefined : await siteOf(store, first, second);
  if (own === null) return 'unknown';
  const found = new Set(own === undefined ? [] : own);
  for (const [key, value] of url.searchParams) for (const id of await sitesReferred(store, key, value)) found.add(id);
  return found.size === 0 ? 'none' : [...found];
}

/** Sites of what a parameter of a query or of a body names by its number. */
export async function sitesReferred(store: Store, key: string, value: unknown): Promise<number[]> {
  const ids = (Array.isArray(value) ? value : [value]).map(Number).filter((n) => Number.isSafeInteger(n) && n > 0);
  if (ids.length === 0) return [];
  if (key === 'site' || key === 'siteId') return ids;
  if (['sweep', 'sweepId', 'with', 'against'].includes(key)) return sitesOfRows(store, 'sweeps', ids);
  if (['capture', 'captures', 'captureId'].includes(key)) return sitesOfRows(store, 'captures', ids);
  if (['proof', 'proofs'].includes(key)) return sitesOfRows(store, 'proofs', ids);
  if (['page', 'pages'].includes(key)) return sitesOfPages(store, ids);
  return [];
}

/** Undefined for a path that leads to no site, null for what is not there. */
async function siteOf(store: Store, first: string, second: string): Promise<number[] | null | undefined> {
  if (first === 'sites') {
    const id = Number(second);
    return Number.isSafeInteger(id) && id > 0 ? [id] : null;
  }
  if (first === 'pages') return found(await sitesOfPages(store, [Number(second)]));
  const table = TABLES[first as keyof typeof TABLES];
  if (!table) return undefined;
  return found(await sitesOfRows(store, table, [Number(second)]));
}

const found = (ids: number[]): number[] | null => (ids.length === 0 ? null : ids);

async function sitesOfRows(
  store: Store,
  table: 'sweeps' | 'captures' | 'proofs' | 'jobs',
  ids: readonly number[],
): Promise<number[]> {
  const rows = await store.selectFrom(table).select('site_id').distinct().where('id', 'in', ids).execute();
  return rows.flatMap((r) => (r.site_id === null ? [] : [r.site_id]));
}

async function sitesOfPages(store: Store, ids: readonly number[]): Promise<number[]> {
  const rows = await store
    .selectFrom('pages')
    .innerJoin('sweeps', 'sweeps.id', 'pages.sweep_id')
    .select('sweeps.site_id')
    .distinct()
    .where('pages.id', 'in', ids)
    .execute();
  return rows.map((r) => r.site_id);
}
