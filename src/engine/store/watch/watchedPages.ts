import { gunzipSync, gzipSync } from 'node:zlib';
import type { Muting, PageChange } from '../../../core/watch/pageChange';
import type { PageSnapshot } from '../../../core/watch/pageSnapshot';
import type { Store } from '../store';

/** A page that the change watch visits. */
export interface WatchedPage {
  readonly id: number;
  readonly url: string;
  /** Set by hand. */
  readonly mutings: readonly Muting[];
  /** What differed between two visits at once. */
  readonly learned: readonly Muting[];
}

/** One visit to it. */
export interface PageVisit {
  readonly id: number;
  readonly watchedId: number;
  readonly seenAt: string;
  /** Null for the first visit, and where there was no answer. */
  readonly changes: readonly PageChange[] | null;
  readonly error: string | null;
}

/** Pages that one site may watch. */
export const MOST_WATCHED = 200;
/** Visits of a page that are kept. */
const KEPT = 100;
/** Of the mutings that were learned the latest are kept. */
const MOST_LEARNED = 500;

export async function listWatched(store: Store, siteId: number): Promise<WatchedPage[]> {
  const rows = await store
    .selectFrom('watched_pages')
    .select(['id', 'url', 'mutings', 'learned'])
    .where('site_id', '=', siteId)
    .orderBy('url')
    .execute();
  return rows.map((r) => ({
    ...r,
    mutings: JSON.parse(r.mutings) as Muting[],
    learned: JSON.parse(r.learned) as Muting[],
  }));
}

/** Watches pages; those that are watched already stay as they are. */
export async function watchPages(store: Store, siteId: number, urls: readonly string[]): Promise<void> {
  for (const url of urls)
    await store
      .insertInto('watched_pages')
      .values({ site_id: siteId, url, mutings: '[]', learned: '[]', created_at: new Date().toISOString() })
      .onConflict((c) => c.columns(['site_id', 'url']).doNothing())
      .execute();
}

export async function unwatchPage(store: Store, siteId: number, id: number): Promise<boolean> {
  const result = await store
    .deleteFrom('watched_pages')
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .executeTakeFirst();
  return result.numDeletedRows > 0n;
}

/** Sets what is left aside of a page by hand; false when there is no such page. */
export async function setMutings(
  store: Store,
  siteId: number,
  id: number,
  mutings: readonly Muting[],
): Promise<boolean> {
  const result = await store
    .updateTable('watched_pages')
    .set({ mutings: JSON.stringify(mutings) })
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

/** Adds to what was learned of a page. */
export async function addLearned(store: Store, page: WatchedPage, more: readonly Muting[]): Promise<void> {
  const key = (m: Muting) => JSON.stringify([m.part, m.where]);
  const all = new Map([...page.learned, ...more].map((m) => [key(m), m]));
  await store
    .updateTable('watched_pages')
    .set({ learned: JSON.stringify([...all.values()].slice(-MOST_LEARNED)) })
    .where('id', '=', page.id)
    .execute();
}

/** The last visit that brought an answer. */
export async function lastSnapshot(store: Store, watchedId: number): Promise<PageSnapshot | undefined> {
  const row = await store
    .selectFrom('page_visits')
    .select('snapshot')
    .where('watched_id', '=', watchedId)
    .where('snapshot', 'is not', null)
    .orderBy('id', 'desc')
    .limit(1)
    .executeTakeFirst();
  return row?.snapshot ? (JSON.parse(gunzipSync(row.snapshot).toString('utf8')) as PageSnapshot) : undefined;
}

/** Keeps a visit; of those before only the last snapshot is needed, and the oldest visits go. */
export async function addVisit(
  store: Store,
  watchedId: number,
  visit: { readonly seenAt: string } & (
    { readonly snapshot: PageSnapshot; readonly changes: readonly PageChange[] | null } | { readonly error: string }
  ),
): Promise<number> {
  return store.transaction().execute(async (tx) => {
    const found = 'snapshot' in visit;
    if (found)
      await tx
        .updateTable('page_visits')
        .set({ snapshot: null })
        .where('watched_id', '=', watchedId)
        .where('snapshot', 'is not', null)
        .execute();
    const { id } = await tx
      .insertInto('page_visits')
      .values({
        watched_id: watchedId,
        seen_at: visit.seenAt,
        snapshot: found ? gzipSync(JSON.stringify(visit.snapshot)) : null,
        changes: found && visit.changes ? JSON.stringify(visit.changes) : null,
        error: found ? null : visit.error,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await tx
      .deleteFrom('page_visits')
      .where('watched_id', '=', watchedId)
      .where('snapshot', 'is', null)
      .where('id', 'not in', (q) =>
        q
          .selectFrom('page_visits as latest')
          .select('latest.id')
          .where('latest.watched_id', '=', watchedId)
          .orderBy('latest.id', 'desc')
          .limit(KEPT),
      )
      .execute();
    return id;
  });
}

/** Visits to the watched pages of a site, the latest first. */
export async function listVisits(store: Store, siteId: number, limit = 400): Promise<PageVisit[]> {
  const rows = await store
    .selectFrom('page_visits')
    .innerJoin('watched_pages', 'watched_pages.id', 'page_visits.watched_id')
    .select(['page_visits.id', 'watched_id as watchedId', 'seen_at as seenAt', 'changes', 'error'])
    .where('watched_pages.site_id', '=', siteId)
    .orderBy('page_visits.id', 'desc')
    .limit(limit)
    .execute();
  return rows.map((r) => ({ ...r, changes: r.changes ? (JSON.parse(r.changes) as PageChange[]) : null }));
}
