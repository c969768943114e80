import type { Store } from './store';

/** What is kept out of lists and counts: a check, all findings of one cause, or one finding. */
export type MuteScope = 'check' | 'cause' | 'finding';

/** One mute of a site. */
export interface MuteRow {
  readonly id: number;
  readonly scope: MuteScope;
  /** Id of the check, cause or finding. */
  readonly value: string;
  readonly check: string;
  /** What it was called when it was muted. */
  readonly title: string;
  readonly reason: string;
  readonly createdAt: string;
}

const columns = ['id', 'scope', 'value', 'check', 'title', 'reason', 'created_at as createdAt'] as const;

/** The mutes of a site, the latest first. */
export function listMutes(store: Store, siteId: number): Promise<MuteRow[]> {
  return store.selectFrom('mutes').select(columns).where('site_id', '=', siteId).orderBy('id', 'desc').execute();
}

/** Mutes something; muting it again changes the reason. */
export async function addMute(store: Store, siteId: number, mute: Omit<MuteRow, 'id' | 'createdAt'>): Promise<MuteRow> {
  return store
    .insertInto('mutes')
    .values({
      site_id: siteId,
      scope: mute.scope,
      value: mute.value,
      check: mute.check,
      title: mute.title,
      reason: mute.reason,
      created_at: new Date().toISOString(),
    })
    .onConflict((c) => c.columns(['site_id', 'scope', 'value']).doUpdateSet({ reason: mute.reason, title: mute.title }))
    .returning(columns)
    .executeTakeFirstOrThrow();
}

/** Takes a mute back; false when there is none. */
export async function removeMute(store: Store, siteId: number, id: number): Promise<boolean> {
  const result = await store.deleteFrom('mutes').where('site_id', '=', siteId).where('id', '=', id).executeTakeFirst();
  return result.numDeletedRows > 0n;
}
