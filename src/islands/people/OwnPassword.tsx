import { useState } from 'react';
import { ME } from '../frame/AccountMenu';
import { shownError, type ShownError } from '../state/api';
import { send } from '../state/send';
import { Fold } from '../ui/Fields';
import { ErrorBox } from '../ui/parts';

/** Changes the password of whoever is logged in. */
export function OwnPassword() {
  const [current, setCurrent] = useState('');
  const [password, setPassword] = useState('');
  const [error, setError] = useState<ShownError>();
  const [done, setDone] = useState(false);
  const change = () => {
    setError(undefined);
    setDone(false);
    send(ME, 'PUT', { current, password })
      .then(() => (setDone(true), setCurrent(''), setPassword('')))
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <Fold title="Change your password">
      <form
        className="people-form"
        onSubmit={(e) => {
          e.preventDefault();
          change();
        }}
      >
        <label>
          Password now
          <input
            type="password"
            autoComplete="current-password"
            value={current}
            onChange={(e) => setCurrent(e.target.value)}
          />
        </label>
        <label>
          New password
          <input
            type="password"
            autoComplete="new-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
        <button className="button" disabled={current === '' || password === ''}>
          Change it
        </button>
        {done && <span role="status">It is changed; your other browsers are logged out.</span>}
      </form>
      {error && <ErrorBox error={error} />}
    </Fold>
  );
}
