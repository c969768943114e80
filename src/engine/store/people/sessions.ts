import { createHash, randomBytes } from 'node:crypto';
import type { Store } from '../store';
import { findAccount, type Account } from './accounts';

/** A session ends after so long without a request, and after so long in any case, in ms. */
export const IDLE_MS = 7 * 86_400_000;
export const LONGEST_MS = 30 * 86_400_000;
/** The last request is noted once in so many ms. */
const NOTE_MS = 60_000;

const hashOf = (secret: string) => createHash('sha256').update(secret).digest('hex');

/** Begins a session; gives what its cookie holds, of which only a hash is kept. */
export async function beginSession(store: Store, accountId: number, now = Date.now()): Promise<string> {
  const secret = randomBytes(32).toString('base64url');
  await store
    .deleteFrom('sessions')
    .where((e) => e.or([e('last_seen', '<', now - IDLE_MS), e('created_at', '<', now - LONGEST_MS)]))
    .execute();
  await store
    .insertInto('sessions')
    .values({ hash: hashOf(secret), account_id: accountId, created_at: now, last_seen: now })
    .execute();
  return secret;
}

/** Whose session a cookie is; undefined for one that has ended. */
export async function accountOfSession(store: Store, secret: string, now = Date.now()): Promise<Account | undefined> {
  const row = await store.selectFrom('sessions').selectAll().where('hash', '=', hashOf(secret)).executeTakeFirst();
  if (!row || now - row.last_seen > IDLE_MS || now - row.created_at > LONGEST_MS) return undefined;
  const account = await findAccount(store, row.account_id);
  if (!account || account.disabledAt !== null) return undefined;
  if (now - row.last_seen > NOTE_MS)
    await store.updateTable('sessions').set({ last_seen: now }).where('hash', '=', row.hash).execute();
  return account;
}

export async function endSession(store: Store, secret: string): Promise<void> {
  await store.deleteFrom('sessions').where('hash', '=', hashOf(secret)).execute();
}
