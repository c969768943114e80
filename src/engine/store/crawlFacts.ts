import type { CrawlFacts } from '../../core/checks/crawlFacts';
import type { Store } from './store';

/** Links of one page that are worth telling; more of them would be one cause all the same. */
const MOST = 200;

/** What a sweep has found out about a page; undefined when the sweep did not visit it. */
export async function crawlFactsOf(store: Store, sweepId: number, page: string): Promise<CrawlFacts | undefined> {
  const row = await store
    .selectFrom('pages')
    .select('id')
    .where('sweep_id', '=', sweepId)
    .where('url', '=', page)
    .where('state', '=', 'done')
    .executeTakeFirst();
  if (!row) return undefined;
  const links = await store
    .selectFrom('links')
    .innerJoin('pages as target', 'target.id', 'links.to_id')
    .select(['target.url', 'target.final_status as status', 'target.hop_count as hops', 'target.final_url as end'])
    .where('links.sweep_id', '=', sweepId)
    .where('links.from_id', '=', row.id)
    .where((e) => e.or([e('target.final_status', '>=', 400), e('target.hop_count', '>', 0)]))
    .orderBy('links.line')
    .limit(MOST)
    .execute();
  const plain = page.replace(/^https:/, 'http:');
  const named =
    plain === page
      ? undefined
      : await store
          .selectFrom('pages')
          .select(['url', 'in_sitemap as sitemap'])
          .where('sweep_id', '=', sweepId)
          .where('url', '=', plain)
          .where('in_sitemap', 'is not', null)
          .executeTakeFirst();
  return {
    links: links.map((l) => ({ url: l.url, status: l.status ?? 0, hops: l.hops, end: l.end ?? l.url })),
    sitemapHttp: named?.sitemap ? { sitemap: named.sitemap, url: named.url } : undefined,
  };
}
