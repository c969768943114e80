import type { CrawledPage } from '../../core/watch/crawlFigures';
import type { Store } from './store';

/** What a sweep knows of each page that it visited; undefined for a sweep that visited none. */
export async function crawledPages(store: Store, sweepId: number): Promise<CrawledPage[] | undefined> {
  const rows = await store
    .selectFrom('pages')
    .select([
      'url',
      'status',
      'canonical',
      'robots',
      'links_missing as missingLinks',
      'links_redirected as redirectedLinks',
      'mentions',
      'answer_ms as answerMs',
    ])
    .where('sweep_id', '=', sweepId)
    .where('status', 'is not', null)
    .execute();
  if (rows.length === 0) return undefined;
  return rows.map((r) => ({
    page: r.url,
    brokenPages: Number((r.status ?? 0) >= 400),
    missingLinks: r.missingLinks ?? 0,
    redirectedLinks: r.redirectedLinks ?? 0,
    httpMentions: r.mentions ?? 0,
    noindexPages: Number((r.robots ?? '').includes('noindex')),
    // A redirect or an error page has no say in it.
    canonicalElsewhere: Number(r.status === 200 && r.canonical !== null && r.canonical !== r.url),
    answerMs: r.answerMs ?? undefined,
  }));
}
