import type { FeedEntry } from '../../../core/watch/atom';
import type { Notice } from '../../../core/watch/notices';
import { sealerOf } from '../sealed';
import type { Store } from '../store';

/** A notice as listed. */
export interface NoticeRow extends FeedEntry {
  readonly siteId: number;
  readonly readAt: string | null;
}

/** Notices of a site that are kept. */
const KEPT = 1000;

/** Adds notices; those whose key is known already are not made again. Returns the new ones. */
export async function addNotices(
  store: Store,
  siteId: number,
  notices: readonly Notice[],
  at: Date,
): Promise<NoticeRow[]> {
  const made: NoticeRow[] = [];
  for (const n of notices) {
    const row = await store
      .insertInto('notices')
      .values({
        site_id: siteId,
        at: at.toISOString(),
        kind: n.kind,
        key: n.key,
        title: n.title,
        lines: JSON.stringify(n.lines),
        path: n.path,
      })
      .onConflict((c) => c.columns(['site_id', 'key']).doNothing())
      .returning('id')
      .executeTakeFirst();
    if (row) made.push({ ...n, id: row.id, siteId, at: at.toISOString(), readAt: null });
  }
  if (made.length > 0)
    await store
      .deleteFrom('notices')
      .where('site_id', '=', siteId)
      .where('id', 'not in', (q) =>
        q
          .selectFrom('notices as latest')
          .select('latest.id')
          .where('latest.site_id', '=', siteId)
          .orderBy('latest.id', 'desc')
          .limit(KEPT),
      )
      .execute();
  return made;
}

/** Notices of a site, the latest first. */
export async function listNotices(store: Store, siteId: number, limit = 200): Promise<NoticeRow[]> {
  const rows = await store
    .selectFrom('notices')
    .select(['id', 'site_id as siteId', 'at', 'kind', 'key', 'title', 'lines', 'path', 'read_at as readAt'])
    .where('site_id', '=', siteId)
    .orderBy('id', 'desc')
    .limit(limit)
    .execute();
  return rows.map((r) => ({ ...r, lines: JSON.parse(r.lines) as string[] }));
}

/** Marks notices of a site up to an id as read. */
export async function readNotices(store: Store, siteId: number, upTo: number): Promise<void> {
  await store
    .updateTable('notices')
    .set({ read_at: new Date().toISOString() })
    .where('site_id', '=', siteId)
    .where('id', '<=', upTo)
    .where('read_at', 'is', null)
    .execute();
}

/** Notices that nobody has read. */
export async function countUnread(store: Store, siteId: number): Promise<number> {
  const row = await store
    .selectFrom('notices')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('site_id', '=', siteId)
    .where('read_at', 'is', null)
    .executeTakeFirstOrThrow();
  return row.n;
}

/** Notices of a month, YYYY-MM, beside those that say that all is well. */
export async function countNotices(store: Store, siteId: number, month: string): Promise<number> {
  const row = await store
    .selectFrom('notices')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('site_id', '=', siteId)
    .where('kind', '!=', 'well')
    .where('at', 'like', `${month}-%`)
    .executeTakeFirstOrThrow();
  return row.n;
}

/** How the notices of a site leave. */
export interface NotifySettings {
  /** Addresses for mail; needs the mail server of the application. */
  readonly mailTo: readonly string[];
  readonly webhook?: { readonly url: string; readonly secret: string };
  /** Say once a month that all is well. */
  readonly monthly: boolean;
}

export const NO_NOTIFY: NotifySettings = { mailTo: [], monthly: false };

export async function notifySettings(store: Store, siteId: number): Promise<NotifySettings> {
  const row = await store.selectFrom('sites').select('notify').where('id', '=', siteId).executeTakeFirst();
  if (!row?.notify) return NO_NOTIFY;
  return JSON.parse((await sealerOf(store)).open(row.notify)) as NotifySettings;
}

export async function saveNotifySettings(store: Store, siteId: number, settings: NotifySettings): Promise<void> {
  await store
    .updateTable('sites')
    .set({ notify: (await sealerOf(store)).seal(JSON.stringify(settings)) })
    .where('id', '=', siteId)
    .execute();
}
