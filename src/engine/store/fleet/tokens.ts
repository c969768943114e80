import { createHash, randomBytes } from 'node:crypto';
import type { TokenScope } from '../fleetSchema';
import type { Store } from '../store';

/** What tokens may do. */
export const TOKEN_SCOPES: readonly TokenScope[] = ['read', 'change', 'record'];

/** A token as listed; the token itself is shown once, when it is made. */
export interface TokenRow {
  readonly id: number;
  readonly name: string;
  readonly scope: TokenScope;
  readonly accountId: number | null;
  readonly createdAt: string;
  readonly lastUsed: string | null;
}

const columns = [
  'id',
  'name',
  'scope',
  'account_id as accountId',
  'created_at as createdAt',
  'last_used as lastUsed',
] as const;

/** Tokens begin with this: searches for secrets that were published find them. */
const MARK = 'kl_';
/** The last use is noted once in so many ms. */
const NOTE_MS = 60_000;

export const hashOfToken = (token: string): string => createHash('sha256').update(token).digest('hex');

/** Makes a token; only its hash is kept. */
export async function addToken(
  store: Store,
  token: { readonly name: string; readonly scope: TokenScope; readonly accountId: number | null },
): Promise<{ readonly row: TokenRow; readonly token: string }> {
  const secret = MARK + randomBytes(32).toString('base64url');
  const row = await store
    .insertInto('api_tokens')
    .values({
      name: token.name,
      scope: token.scope,
      hash: hashOfToken(secret),
      account_id: token.accountId,
      created_at: new Date().toISOString(),
      last_used: null,
    })
    .returning(columns)
    .executeTakeFirstOrThrow();
  return { row, token: secret };
}

/** Tokens of one account, or all of them; the latest first. */
export function listTokens(store: Store, accountId?: number): Promise<TokenRow[]> {
  const all = store.selectFrom('api_tokens').select(columns).orderBy('id', 'desc').limit(500);
  return (accountId === undefined ? all : all.where('account_id', '=', accountId)).execute();
}

/** The token that somebody sent; undefined for one that was never made or is deleted. */
export async function tokenOf(store: Store, secret: string): Promise<TokenRow | undefined> {
  const row = await store
    .selectFrom('api_tokens')
    .select(columns)
    .where('hash', '=', hashOfToken(secret))
    .executeTakeFirst();
  if (row && Date.now() - Date.parse(row.lastUsed ?? '1970-01-01') > NOTE_MS)
    await store
      .updateTable('api_tokens')
      .set({ last_used: new Date().toISOString() })
      .where('id', '=', row.id)
      .execute();
  return row;
}

/** Deletes a token, and the recorders that came with it. */
export async function removeToken(store: Store, id: number, accountId?: number): Promise<boolean> {
  const one = store.deleteFrom('api_tokens').where('id', '=', id);
  const result = await (accountId === undefined ? one : one.where('account_id', '=', accountId)).executeTakeFirst();
  return result.numDeletedRows > 0n;
}
