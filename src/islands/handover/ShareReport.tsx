import { useState } from 'react';
import type { Reader } from '../../core/handover/report/facts';
import type { ShareRow } from '../../engine/store/shares';
import { shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { send } from '../state/send';
import { visitorNamed } from '../state/visitors';
import { count, day } from '../ui/format';
import { ErrorBox, HeadUnseen } from '../ui/parts';

/** Links by which a report can be read without a password, until a day or until they are taken back. */
export default function ShareReport({ reader }: { reader: Reader }) {
  const { siteId, sweepId, visitor } = useBench();
  const path = `/api/sites/${siteId}/shares`;
  const shares = useResource<readonly ShareRow[]>(path);
  const [error, setError] = useState<ShownError>();
  const [made, setMade] = useState<string>();
  const [copied, setCopied] = useState(false);
  const run = (work: Promise<unknown>) => {
    setError(undefined);
    work.then(shares.reload).catch((e: unknown) => setError(shownError(e)));
  };
  const make = (form: FormData) =>
    run(
      send<{ address: string }>(path, 'POST', {
        reader,
        visitor: visitor.id,
        days: Number(form.get('days')),
        ...(form.get('which') === 'this' && { sweep: sweepId }),
      }).then(({ address }) => {
        setCopied(false);
        setMade(address);
      }),
    );
  const local = made !== undefined && /^https?:\/\/(localhost|127\.|\[::1\])/.test(made);
  return (
    <>
      <form
        className="form handover-form"
        aria-label="Share by link"
        onSubmit={(e) => {
          e.preventDefault();
          make(new FormData(e.currentTarget));
        }}
      >
        <div className="handover-fields">
          <label>
            Shows
            <select name="which">
              <option value="this">this sweep</option>
              <option value="latest">always the latest sweep</option>
            </select>
          </label>
          <label>
            Ends after
            <select name="days" defaultValue="30">
              <option value="7">7 days</option>
              <option value="30">30 days</option>
              <option value="90">90 days</option>
              <option value="365">a year</option>
            </select>
          </label>
        </div>
        <p className="tools">
          <button className="button solid">Make a link</button>
        </p>
        {made && (
          <div className="notice" role="status">
            <input
              className="mono share-address"
              aria-label="Address of the link"
              readOnly
              value={made}
              onFocus={(e) => e.target.select()}
            />
            <button
              type="button"
              className="put"
              onClick={() => void navigator.clipboard.writeText(made).then(() => setCopied(true))}
            >
              {copied ? 'Copied' : 'Copy'}
            </button>
            <div className="soft small">
              Shown this once. Whoever has it reads this report and nothing else.
              {local && ' It opens on this machine only: serve on an address that others reach, with a password.'}
            </div>
          </div>
        )}
        {error && <ErrorBox error={error} />}
      </form>
      {shares.value && shares.value.length > 0 && (
        <table className="plain">
          <thead>
            <tr>
              <th>For</th>
              <th>Visitor</th>
              <th>Made</th>
              <th>Ends</th>
              <th>Opened</th>
              <HeadUnseen>Take back</HeadUnseen>
            </tr>
          </thead>
          <tbody>
            {shares.value.map((s) => (
              <tr key={s.id}>
                <td>
                  {s.reader}, {s.sweepId === null ? 'latest sweep' : 'one sweep'}
                </td>
                <td>{visitorNamed(s.visitor).name}</td>
                <td>{day(s.createdAt)}</td>
                <td>{s.revokedAt ? `taken back ${day(s.revokedAt)}` : day(s.endsAt)}</td>
                <td>{s.opened === 0 ? 'never' : count(s.opened, 'time')}</td>
                <td className="right-end">
                  {!s.revokedAt && (
                    <button className="link" onClick={() => run(send(`${path}/${s.id}`, 'DELETE'))}>
                      Take back
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
