import type { Store } from '../store';

/** Something that somebody changed. */
export interface AuditEntry {
  readonly id: number;
  readonly at: string;
  readonly who: string;
  readonly says: string;
  readonly method: string;
  readonly path: string;
  readonly siteId: number | null;
  readonly address: string;
}

/** Entries that are kept: the oldest go first. */
const MOST = 200_000;

/** Notes a change. */
export async function noteChange(store: Store, entry: Omit<AuditEntry, 'id' | 'at'>): Promise<void> {
  const { siteId, ...rest } = entry;
  const { id } = await store
    .insertInto('audit_log')
    .values({ ...rest, path: entry.path.slice(0, 500), site_id: siteId, at: new Date().toISOString() })
    .returning('id')
    .executeTakeFirstOrThrow();
  if (id % 1000 === 0)
    await store
      .deleteFrom('audit_log')
      .where('id', '<=', id - MOST)
      .execute();
}

/** The latest changes, narrowed by who or site. */
export function listChanges(
  store: Store,
  at: { readonly who?: string; readonly siteId?: number; readonly limit: number; readonly before?: number },
): Promise<AuditEntry[]> {
  let rows = store
    .selectFrom('audit_log')
    .select(['id', 'at', 'who', 'says', 'method', 'path', 'site_id as siteId', 'address'])
    .orderBy('id', 'desc')
    .limit(at.limit);
  if (at.who !== undefined) rows = rows.where('who', '=', at.who);
  if (at.siteId !== undefined) rows = rows.where('site_id', '=', at.siteId);
  if (at.before !== undefined) rows = rows.where('id', '<', at.before);
  return rows.execute();
}
