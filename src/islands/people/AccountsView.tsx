import { lazy, Suspense, useState } from 'react';
import { ROLE_MEANS, ROLES, type Role, type Roles } from '../../core/people/roles';
import type { Account } from '../../engine/store/people/accounts';
import { announceChange, ask, shownError, useResource, type Resource, type ShownError } from '../state/api';
import { send } from '../state/send';
import { dayTime } from '../ui/format';
import { ErrorBox, HeadUnseen } from '../ui/parts';
import { ACCOUNTS, SITES } from './peoplePaths';
import { RolesPick } from './RolesPick';

const AskDelete = lazy(() => import('../ui/AskDelete'));

export interface SiteName {
  readonly id: number;
  readonly name: string;
}

const NO_ROLES: Roles = { sites: [] };

/** The accounts: made, changed, kept from logging in, deleted. */
export function AccountsView({ accounts, first }: { accounts: Resource<readonly Account[]>; first: boolean }) {
  const sites = useResource<{ sites: readonly SiteName[] }>(SITES).value?.sites ?? [];
  const [error, setError] = useState<ShownError>();
  const [open, setOpen] = useState<number>();
  const [going, setGoing] = useState<Account>();
  const list = accounts.value ?? [];
  const run = (work: Promise<unknown>) => {
    setError(undefined);
    return work.then(accounts.reload).catch((e: unknown) => setError(shownError(e)));
  };
  const change = (id: number, value: object) =>
    run(
      ask(`${ACCOUNTS}/${id}`, {
        method: 'PATCH',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(value),
      }),
    );
  return (
    <section aria-label="Accounts">
      {!first && <h2>Accounts</h2>}
      {accounts.error && <ErrorBox error={accounts.error} retry={accounts.reload} />}
      {error && <ErrorBox error={error} />}
      {list.length > 0 && (
        <div className="wide-rows">
          <table className="rows">
            <thead>
              <tr>
                <th>Name</th>
                <th>Role</th>
                <th>Last log-in</th>
                <HeadUnseen>Change</HeadUnseen>
              </tr>
            </thead>
            <tbody>
              {list.map((a) => (
                <tr key={a.id} className={a.disabledAt ? 'off' : ''}>
                  <td className="strong">{a.name}</td>
                  <td>
                    {open === a.id ? (
                      <RolesPick
                        roles={a}
                        sites={sites}
                        onSave={(roles) => void change(a.id, { roles: sent(roles) }).then(() => setOpen(undefined))}
                        onCancel={() => setOpen(undefined)}
                      />
                    ) : (
                      rolesText(a, sites)
                    )}
                    {a.disabledAt && <div className="small">may not log in since {dayTime(a.disabledAt)}</div>}
                  </td>
                  <td className="soft">{a.lastLogin ? dayTime(a.lastLogin) : 'not yet'}</td>
                  <td className="right">
                    <button className="link" onClick={() => setOpen(a.id)} aria-label={`Change role of ${a.name}`}>
                      change role
                    </button>{' '}
                    <button
                      className="link"
                      onClick={() => void change(a.id, { disabled: a.disabledAt === null })}
                      aria-label={`${a.disabledAt ? 'Unlock' : 'Lock'} ${a.name}`}
                    >
                      {a.disabledAt ? 'unlock' : 'lock'}
                    </button>{' '}
                    <button className="link soft" onClick={() => setGoing(a)} aria-label={`Delete ${a.name}`}>
                      delete
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {going && (
        <Suspense>
          <AskDelete
            name={`the account of ${going.name}`}
            says="They cannot log in any more. What they changed stays in the list. You cannot undo it."
            onCancel={() => setGoing(undefined)}
            onDelete={() => {
              setGoing(undefined);
              void run(send(`${ACCOUNTS}/${going.id}`, 'DELETE'));
            }}
          />
        </Suspense>
      )}
      <NewAccount first={first} sites={sites} reload={accounts.reload} />
    </section>
  );
}

const sent = (roles: Roles) => ({ everywhere: roles.everywhere ?? '', sites: roles.sites });

function rolesText(roles: Roles, sites: readonly SiteName[]): string {
  const name = (id: number) => sites.find((s) => s.id === id)?.name ?? `site ${id}`;
  const parts = [
    ...(roles.everywhere ? [roles.everywhere] : []),
    ...roles.sites.map((s) => `${s.role} of ${name(s.siteId)}`),
  ];
  return parts.join(', ') || 'no role: sees nothing';
}

function NewAccount(props: { first: boolean; sites: readonly SiteName[]; reload: () => void }) {
  const { first, sites, reload } = props;
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [role, setRole] = useState<Role | ''>(first ? 'administrator' : 'owner');
  const [roles, setRoles] = useState<Roles>(NO_ROLES);
  const [error, setError] = useState<ShownError>();
  const [done, setDone] = useState('');
  const add = async () => {
    setError(undefined);
    setDone('');
    try {
      const chosen: Roles = { everywhere: role === '' ? undefined : role, sites: role === '' ? roles.sites : [] };
      await send(ACCOUNTS, 'POST', { name, password, ...sent(chosen) });
      setDone(`${name} has an account.`);
      setName('');
      setPassword('');
      // Whoever makes the first is logged in with it: everything is asked for anew.
      if (first) window.location.reload();
      announceChange();
      reload();
    } catch (e) {
      setError(shownError(e));
    }
  };
  return (
    <>
      <h2>{first ? 'Make the first account' : 'Add an account'}</h2>
      <form
        className="people-form"
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <label>
          Name
          <input value={name} onChange={(e) => setName(e.target.value)} maxLength={64} autoComplete="off" />
        </label>
        <label>
          Password
          <input
            type="password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
            maxLength={200}
            autoComplete="new-password"
          />
        </label>
        {!first && (
          <label>
            Role on all sites
            <select value={role} onChange={(e) => setRole(e.target.value as Role | '')}>
              {ROLES.map((r) => (
                <option key={r} value={r}>
                  {r}: {ROLE_MEANS[r]}
                </option>
              ))}
              <option value="">none: on single sites only</option>
            </select>
          </label>
        )}
        <button className="button solid" disabled={name.trim() === '' || password === ''}>
          {first ? 'Make it, and log in' : 'Add'}
        </button>
        {done && <span role="status">{done}</span>}
      </form>
      {!first && role === '' && <RolesPick roles={roles} sites={sites} onChange={setRoles} sitesOnly />}
      <p className="soft small">At least 12 characters; several words are easy to keep in mind.</p>
      {error && <ErrorBox error={error} />}
    </>
  );
}
