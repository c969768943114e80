import { useState } from 'react';
import type { TokenRow } from '../../engine/store/fleet/tokens';
import { shownError, useResource, type ShownError } from '../state/api';
import { send } from '../state/send';
import { dayTime } from '../ui/format';
import { ErrorBox, HeadUnseen } from '../ui/parts';
import { TOKENS } from './peoplePaths';

const SCOPES = {
  read: 'read only',
  change: 'do what its owner may do',
  record: 'make recordings (keen-lens recorder)',
} as const;

/** Tokens for the API and for recorders; a new one is shown once. */
export function TokensView({ mayRecord }: { mayRecord: boolean }) {
  const tokens = useResource<readonly TokenRow[]>(TOKENS);
  const [name, setName] = useState('');
  const [scope, setScope] = useState<TokenRow['scope']>('read');
  const [made, setMade] = useState<string>();
  const [error, setError] = useState<ShownError>();
  const run = (work: Promise<unknown>) => {
    setError(undefined);
    return work.then(tokens.reload).catch((e: unknown) => setError(shownError(e)));
  };
  const add = () =>
    run(
      send<{ token: string }>(TOKENS, 'POST', { name, scope }).then(({ token }) => {
        setMade(token);
        setName('');
      }),
    );
  return (
    <section aria-label="Tokens">
      <h2>Tokens</h2>
      <p className="soft">
        For scripts: <span className="mono">Authorization: Bearer …</span>. Deleting one shuts out what uses it.
      </p>
      {tokens.error && <ErrorBox error={tokens.error} retry={tokens.reload} />}
      {error && <ErrorBox error={error} />}
      {tokens.value && tokens.value.length > 0 && (
        <table className="rows">
          <thead>
            <tr>
              <th>Token</th>
              <th>May</th>
              <th>Made</th>
              <th>Last used</th>
              <HeadUnseen>Delete</HeadUnseen>
            </tr>
          </thead>
          <tbody>
            {tokens.value.map((t) => (
              <tr key={t.id}>
                <td className="strong">{t.name}</td>
                <td>{SCOPES[t.scope]}</td>
                <td className="soft">{dayTime(t.createdAt)}</td>
                <td className="soft">{t.lastUsed ? dayTime(t.lastUsed) : 'not yet'}</td>
                <td className="right">
                  <button
                    className="link soft"
                    aria-label={`Delete the token ${t.name}`}
                    onClick={() => void run(send(`${TOKENS}/${t.id}`, 'DELETE'))}
                  >
                    delete
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <form
        className="people-form"
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <label>
          What it is for
          <input value={name} maxLength={80} onChange={(e) => setName(e.target.value)} placeholder="nightly report" />
        </label>
        <label>
          It may
          <select value={scope} onChange={(e) => setScope(e.target.value as TokenRow['scope'])}>
            <option value="read">{SCOPES.read}</option>
            <option value="change">{SCOPES.change}</option>
            {mayRecord && <option value="record">{SCOPES.record}</option>}
          </select>
        </label>
        <button className="button" disabled={name.trim() === ''}>
          Make a token
        </button>
      </form>
      {made && (
        <p className="new-token" role="status">
          Copy it now, it is not shown again: <span className="mono">{made}</span>
        </p>
      )}
    </section>
  );
}
