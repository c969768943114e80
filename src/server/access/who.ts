import ipaddr from 'ipaddr.js';
import { readingOnly, type Roles } from '../../core/people/roles';
import { accountNamed, findAccount, hasAccounts, type Account } from '../../engine/store/people/accounts';
import { accountOfSession } from '../../engine/store/people/sessions';
import { tokenOf } from '../../engine/store/fleet/tokens';
import type { Store } from '../../engine/store/store';

/** Whoever asks, and what they may do. */
export interface Who {
  /** As the audit log names them; empty for whoever works alone, without accounts. */
  readonly name: string;
  readonly roles: Roles;
  readonly account?: Account;
  /** The token that the request came with. */
  readonly token?: { readonly id: number; readonly scope: 'read' | 'change' | 'record' };
}

/** Without accounts whoever passes the gate may do everything. */
const ALONE: Who = { name: '', roles: { everywhere: 'administrator', sites: [] } };

/** Names of the session's cookie: browsers take the first only over https, and only for the whole host (RFC 6265bis, 4.1.3). */
export const SECURE_COOKIE = '__Host-keen-lens';
export const PLAIN_COOKIE = 'keen-lens';

/** What of a request tells whose it is. */
export interface Asked {
  /** A header by its name in lower case. */
  readonly header: (name: string) => string | undefined;
  readonly cookie: (name: string) => string | undefined;
  /** Address of the other end of the connection. */
  readonly address: string;
}

/**
 * Whose request it is: by token, by session, or by the header of a proxy that is trusted. Undefined for nobody that is
 * known, where people have accounts; `wrong token` for one that is none of ours.
 */
export async function whoAsks(store: Store, asked: Asked): Promise<Who | undefined | 'wrong token'> {
  const secret = /^Bearer\s+(\S+)$/i.exec(asked.header('authorization') ?? '')?.[1];
  if (secret !== undefined) return (await byToken(store, secret)) ?? 'wrong token';
  if (!(await hasAccounts(store))) return ALONE;
  for (const name of [SECURE_COOKIE, PLAIN_COOKIE]) {
    const cookie = asked.cookie(name);
    const account = cookie ? await accountOfSession(store, cookie) : undefined;
    if (account) return asWho(account);
  }
  const named = proxyName(asked);
  const account = named === undefined ? undefined : await accountNamed(store, named);
  return account && asWho(account);
}

const asWho = (account: Account): Who => ({ name: account.name, roles: account, account });

async function byToken(store: Store, secret: string): Promise<Who | undefined> {
  const token = await tokenOf(store, secret);
  if (!token) return undefined;
  const { id, scope, accountId } = token;
  const account = accountId === null ? undefined : await findAccount(store, accountId);
  // A token ends with its account; one that was made before there were any ends when there are.
  if (accountId !== null && (!account || account.disabledAt !== null)) return undefined;
  if (accountId === null && scope !== 'record' && (await hasAccounts(store))) return undefined;
  const roles = account ?? ALONE.roles;
  const may = scope === 'change' ? roles : scope === 'read' ? readingOnly(roles) : { everywhere: undefined, sites: [] };
  return {
    name: account ? `${account.name}, token ${token.name}` : `token ${token.name}`,
    roles: may,
    account,
    token: { id, scope },
  };
}

/** The name in the header of a trusted proxy, KEEN_LENS_PROXY_HEADER, from an address of KEEN_LENS_PROXY_FROM. */
function proxyName({ header, address }: Asked): string | undefined {
  const name = process.env.KEEN_LENS_PROXY_HEADER?.trim().toLowerCase();
  const from = process.env.KEEN_LENS_PROXY_FROM ?? '';
  if (!name || !isOneOf(address, from)) return undefined;
  return header(name)?.trim() || undefined;
}

/** Whether an address is one of a list of addresses and ranges (RFC 4632), separated by commas. */
export function isOneOf(address: string, list: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  const own = ipaddr.process(address);
  return list
    .split(',')
    .map((entry) => entry.trim())
    .filter(Boolean)
    .some((entry) => {
      if (ipaddr.isValidCIDR(entry)) {
        const [range, bits] = ipaddr.parseCIDR(entry);
        return range.kind() === own.kind() && own.match(range, bits);
      }
      return ipaddr.isValid(entry) && ipaddr.process(entry).toString() === own.toString();
    });
}
