import { InputError } from '../../../core/capture/errors';
import { passwordFault, type Role, type Roles } from '../../../core/people/roles';
import type { Store } from '../store';
import { hashPassword, isPassword } from './passwords';

/** Somebody who logs in, with their roles. */
export interface Account extends Roles {
  readonly id: number;
  readonly name: string;
  /** False for one that only a proxy logs in. */
  readonly hasPassword: boolean;
  readonly createdAt: string;
  readonly disabledAt: string | null;
  readonly lastLogin: string | null;
}

/** What an account is made with. */
export interface NewAccount extends Roles {
  readonly name: string;
  readonly password?: string;
}

const columns = [
  'id',
  'name',
  'password',
  'role',
  'created_at as createdAt',
  'disabled_at as disabledAt',
  'last_login as lastLogin',
] as const;

interface Row {
  readonly id: number;
  readonly name: string;
  readonly password: string | null;
  readonly role: Role | null;
  readonly createdAt: string;
  readonly disabledAt: string | null;
  readonly lastLogin: string | null;
}

/** Whether anybody has an account: then everybody needs one. */
export async function hasAccounts(store: Store): Promise<boolean> {
  return (await store.selectFrom('accounts').select('id').limit(1).executeTakeFirst()) !== undefined;
}

/** All accounts by name. */
export async function listAccounts(store: Store): Promise<Account[]> {
  const rows = await store.selectFrom('accounts').select(columns).orderBy('name').execute();
  return Promise.all(rows.map((row) => withSites(store, row)));
}

export async function findAccount(store: Store, id: number): Promise<Account | undefined> {
  const row = await store.selectFrom('accounts').select(columns).where('id', '=', id).executeTakeFirst();
  return row && withSites(store, row);
}

/** The account of a name that a trusted proxy gives; undefined for one that is unknown or may not log in. */
export async function accountNamed(store: Store, name: string): Promise<Account | undefined> {
  const row = await store
    .selectFrom('accounts')
    .select(columns)
    .where('name', '=', name.trim().toLowerCase())
    .where('disabled_at', 'is', null)
    .executeTakeFirst();
  return row && withSites(store, row);
}

/** The account of a name and password; undefined for a wrong one of either. */
export async function accountOf(store: Store, name: string, password: string): Promise<Account | undefined> {
  const row = await store
    .selectFrom('accounts')
    .select(columns)
    .where('name', '=', name.trim().toLowerCase())
    .executeTakeFirst();
  const right = await isPassword(password.slice(0, 400), row?.password);
  if (!row || !right || row.disabledAt !== null) return undefined;
  await store.updateTable('accounts').set({ last_login: new Date().toISOString() }).where('id', '=', row.id).execute();
  return withSites(store, row);
}

/**
 * Makes an account; the first has to be an administrator's.
 * @throws InputError for a name or password that will not do
 */
export async function addAccount(store: Store, account: NewAccount): Promise<Account> {
  const name = account.name.trim().toLowerCase();
  if (!/^[a-z0-9][\w.@+-]{0,63}$/.test(name))
    throw new InputError(
      `"${account.name}" cannot be a name.`,
      'name',
      'Use letters, digits, dots, dashes and @, 64 characters at most.',
    );
  const password = account.password === undefined ? null : await newPassword(account.password, name);
  return store.transaction().execute(async (tx) => {
    if (account.everywhere !== 'administrator' && !(await hasAccounts(tx)))
      throw new InputError('The first account has to be an administrator’s.', 'role', 'Choose administrator.');
    const row = await tx
      .insertInto('accounts')
      .values({
        name,
        password,
        role: account.everywhere ?? null,
        created_at: new Date().toISOString(),
        disabled_at: null,
        last_login: null,
      })
      .onConflict((c) => c.doNothing())
      .returning(columns)
      .executeTakeFirst();
    if (!row) throw new InputError(`There is an account "${name}" already.`, 'name', 'Choose another name.');
    await setSites(tx, row.id, account.sites);
    return withSites(tx, row);
  });
}

/** What of an account is changed. */
export interface AccountChange {
  readonly roles?: Roles;
  readonly password?: string;
  readonly disabled?: boolean;
}

/**
 * Changes an account. Whoever is logged in with it is logged out when its password changes or it is disabled.
 * @throws InputError for a password that will not do, or when no administrator would be left
 */
export async function changeAccount(store: Store, id: number, change: AccountChange): Promise<Account | undefined> {
  const known = await findAccount(store, id);
  if (!known) return undefined;
  const password = change.password === undefined ? undefined : await newPassword(change.password, known.name);
  return store.transaction().execute(async (tx) => {
    if (change.roles) {
      await tx
        .updateTable('accounts')
        .set({ role: change.roles.everywhere ?? null })
        .where('id', '=', id)
        .execute();
      await setSites(tx, id, change.roles.sites);
    }
    if (change.disabled !== undefined)
      await tx
        .updateTable('accounts')
        .set({ disabled_at: change.disabled ? new Date().toISOString() : null })
        .where('id', '=', id)
        .execute();
    if (password !== undefined) await tx.updateTable('accounts').set({ password }).where('id', '=', id).execute();
    if (password !== undefined || change.disabled)
      await tx.deleteFrom('sessions').where('account_id', '=', id).execute();
    await keepAdministrator(tx);
    return findAccount(tx, id);
  });
}

/** Deletes an account with its sessions and tokens. @throws InputError when others would have no administrator */
export async function removeAccount(store: Store, id: number): Promise<boolean> {
  return store.transaction().execute(async (tx) => {
    await tx.deleteFrom('api_tokens').where('account_id', '=', id).execute();
    const result = await tx.deleteFrom('accounts').where('id', '=', id).executeTakeFirst();
    if (await hasAccounts(tx)) await keepAdministrator(tx);
    return result.numDeletedRows > 0n;
  });
}

async function keepAdministrator(store: Store): Promise<void> {
  const one = await store
    .selectFrom('accounts')
    .select('id')
    .where('role', '=', 'administrator')
    .where('disabled_at', 'is', null)
    .executeTakeFirst();
  if (!one)
    throw new InputError('No administrator would be left.', 'accounts', 'Make somebody else an administrator first.');
}

async function newPassword(password: string, name: string): Promise<string> {
  const fault = passwordFault(password, name);
  if (fault) throw new InputError(fault, 'password', 'Choose another one; several words are easy to keep in mind.');
  return hashPassword(password);
}

async function setSites(store: Store, id: number, sites: Roles['sites']): Promise<void> {
  await store.deleteFrom('account_sites').where('account_id', '=', id).execute();
  if (sites.length > 0)
    await store
      .insertInto('account_sites')
      .values(sites.map((s) => ({ account_id: id, site_id: s.siteId, role: s.role })))
      .execute();
}

async function withSites(store: Store, row: Row): Promise<Account> {
  const sites = await store
    .selectFrom('account_sites')
    .select(['site_id as siteId', 'role'])
    .where('account_id', '=', row.id)
    .orderBy('site_id')
    .execute();
  const { password, role, ...rest } = row;
  return { ...rest, hasPassword: password !== null, everywhere: role ?? undefined, sites };
}
