import type { Store } from './store';

/** What a crawl leaves in the database besides its sweep; pages first, since others refer to them. */
export const CRAWL_TABLES = ['pages', 'links', 'mentions', 'fingerprints', 'templates', 'sweep_notes'] as const;

/** Rows of these tables, as a crawl of another database left them. */
export type CrawlRows = Readonly<Record<(typeof CRAWL_TABLES)[number], readonly Record<string, unknown>[]>>;

/** Columns that hold the number of a page. */
const PAGE_NUMBERS = ['id', 'from_id', 'to_id', 'page_id'];

/** Puts rows of a crawl into a sweep, with new page numbers behind those that are there. */
export async function insertCrawl(store: Store, sweepId: number, rows: CrawlRows, fetchedAt: string): Promise<void> {
  const { last } = await store
    .selectFrom('pages')
    .select((e) => e.fn.max<number | null>('id').as('last'))
    .executeTakeFirstOrThrow();
  const shift = last ?? 0;
  for (const table of CRAWL_TABLES) {
    const own = rows[table].map((row) => {
      const copy: Record<string, unknown> = { ...row, sweep_id: sweepId };
      for (const name of PAGE_NUMBERS) if (typeof copy[name] === 'number') copy[name] = (copy[name] as number) + shift;
      if (table === 'pages' && copy['fetched_at'] !== null) copy['fetched_at'] = fetchedAt;
      return copy;
    });
    for (let i = 0; i < own.length; i += 100)
      await store
        .insertInto(table)
        .values(own.slice(i, i + 100) as never)
        .execute();
  }
}
