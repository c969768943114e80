import { createHash, randomBytes } from 'node:crypto';
import type { Reader } from '../../core/handover/report/facts';
import type { Store } from './store';

/** A link by which a report can be read without a password. */
export interface ShareRow {
  readonly id: number;
  readonly siteId: number;
  readonly reader: Reader;
  /** Id or spec. */
  readonly visitor: string;
  /** The sweep that it is of; null for the latest. */
  readonly sweepId: number | null;
  readonly createdAt: string;
  readonly endsAt: string;
  readonly revokedAt: string | null;
  readonly opened: number;
  readonly lastOpened: string | null;
}

const columns = [
  'id',
  'site_id as siteId',
  'reader',
  'visitor',
  'sweep_id as sweepId',
  'created_at as createdAt',
  'ends_at as endsAt',
  'revoked_at as revokedAt',
  'opened',
  'last_opened as lastOpened',
] as const;

const asRow = (r: Omit<ShareRow, 'reader'> & { reader: string }): ShareRow => ({ ...r, reader: r.reader as Reader });

/** Only this is kept of a token: whoever reads the database cannot open the link. */
const hashOf = (token: string) => createHash('sha256').update(token).digest('hex');

/** Links of a site, the latest first. */
export async function listShares(store: Store, siteId: number): Promise<ShareRow[]> {
  const rows = await store
    .selectFrom('shares')
    .select(columns)
    .where('site_id', '=', siteId)
    .orderBy('id', 'desc')
    .limit(200)
    .execute();
  return rows.map(asRow);
}

/** Makes a link; its token is told this once. */
export async function addShare(
  store: Store,
  siteId: number,
  share: Pick<ShareRow, 'reader' | 'visitor' | 'sweepId' | 'endsAt'>,
): Promise<{ readonly id: number; readonly token: string }> {
  const token = randomBytes(24).toString('base64url');
  const { id } = await store
    .insertInto('shares')
    .values({
      site_id: siteId,
      token_hash: hashOf(token),
      reader: share.reader,
      visitor: share.visitor,
      sweep_id: share.sweepId,
      created_at: new Date().toISOString(),
      ends_at: share.endsAt,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return { id, token };
}

/** Takes a link back; false when there is none that could be. */
export async function revokeShare(store: Store, siteId: number, id: number): Promise<boolean> {
  const result = await store
    .updateTable('shares')
    .set({ revoked_at: new Date().toISOString() })
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .where('revoked_at', 'is', null)
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

/** The link of a token, counted as opened; undefined for one that never was, has ended or was taken back. */
export async function openShare(store: Store, token: string, now: Date): Promise<ShareRow | undefined> {
  const row = await store
    .updateTable('shares')
    .set((e) => ({ opened: e('opened', '+', 1), last_opened: now.toISOString() }))
    .where('token_hash', '=', hashOf(token))
    .where('revoked_at', 'is', null)
    .where('ends_at', '>', now.toISOString())
    .returning(columns)
    .executeTakeFirst();
  return row && asRow(row);
}
