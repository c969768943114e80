import { useState } from 'react';
import type { AuditEntry } from '../../engine/store/people/auditLog';
import { useResource } from '../state/api';
import { dayTime } from '../ui/format';
import { ErrorBox } from '../ui/parts';
import { CHANGES } from './peoplePaths';

/** Who changed what, the latest first. */
export function ChangesView() {
  const [who, setWho] = useState('');
  const [most, setMost] = useState(50);
  const path =
    who === '' && most === 50 ? CHANGES : `/api/audit?limit=${most}${who && `&who=${encodeURIComponent(who)}`}`;
  const changes = useResource<readonly AuditEntry[]>(path);
  const list = changes.value ?? [];
  return (
    <section aria-label="Changes">
      <h2>Who changed what</h2>
      <div className="tools">
        <label>
          Of{' '}
          <input
            aria-label="Name of the account"
            placeholder="everybody"
            value={who}
            onChange={(e) => setWho(e.target.value.trim())}
          />
        </label>
        <a
          className="link"
          href={`/api/audit?format=csv&limit=10000${who && `&who=${encodeURIComponent(who)}`}`}
          download
        >
          Export as CSV
        </a>
      </div>
      {changes.error && <ErrorBox error={changes.error} retry={changes.reload} />}
      {changes.value?.length === 0 && <p className="soft">Nothing yet.</p>}
      {list.length > 0 && (
        <div className="wide-rows">
          <table className="rows">
            <thead>
              <tr>
                <th>When</th>
                <th>Who</th>
                <th>What</th>
                <th>Where</th>
              </tr>
            </thead>
            <tbody>
              {list.map((c) => (
                <tr key={c.id}>
                  <td className="soft">{dayTime(c.at)}</td>
                  <td className="strong">{c.who}</td>
                  <td>{c.says}</td>
                  <td className="mono small">
                    {c.path}
                    {c.address && <span className="soft"> from {c.address}</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {list.length === most && (
        <button className="button" onClick={() => setMost(most + 200)}>
          Show more
        </button>
      )}
    </section>
  );
}
