import { useState } from 'react';
import type { NoticeKind } from '../../core/watch/notices';
import { announceChange, shownError, useAwake, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { allowNotices } from '../state/jobs';
import { setQuery, useLocation } from '../state/location';
import { count, dayTime } from '../ui/format';
import { ErrorBox } from '../ui/parts';
import { To } from '../ui/To';
import { send } from '../state/send';
import type { WatchAnswer } from './watchPath';

const KINDS: Readonly<Record<NoticeKind, string>> = {
  limit: 'Limit',
  findings: 'Findings',
  change: 'Page change',
  failure: 'Failure',
  well: 'All is well',
};

/** What there was to say, the latest first. */
export function NoticesView({ watch, reload }: { watch: WatchAnswer; reload: () => void }) {
  const { siteId } = useBench();
  const { query } = useLocation();
  const [error, setError] = useState<ShownError>();
  const kind = query.get('kind');
  const shown = watch.notices.filter((n) => !kind || n.kind === kind);
  const readAll = () => {
    const upTo = watch.notices[0]?.id ?? 0;
    send(`/api/sites/${siteId}/notices`, 'PUT', { readUpTo: upTo })
      .then(announceChange)
      .then(reload)
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <>
      <div className="tools">
        <select
          aria-label="Kind of notice"
          value={kind ?? ''}
          onChange={(e) => setQuery({ kind: e.target.value || null })}
        >
          <option value="">all kinds ({watch.notices.length})</option>
          {Object.entries(KINDS).map(([id, name]) => (
            <option key={id} value={id}>
              {name} ({watch.notices.filter((n) => n.kind === id).length})
            </option>
          ))}
        </select>
        <button className="put" onClick={readAll} disabled={watch.unread === 0}>
          Mark all as read
        </button>
        <a href={`/api/sites/${siteId}/notices.atom`}>Atom feed</a>
        <BrowserNotices />
      </div>
      {error && <ErrorBox error={error} />}
      {shown.length === 0 && (
        <p className="soft">
          {watch.notices.length === 0
            ? 'Nothing to say so far: notices come when a limit breaks, something new is found, a page changes, or a run fails.'
            : 'No notice of this kind.'}
        </p>
      )}
      <ol className="notices">
        {shown.map((n) => (
          <li key={n.id} className={n.readAt ? '' : 'unread'}>
            <div className="between">
              <span>
                <span className="notice-kind">{KINDS[n.kind]}</span> <To to={n.path}>{n.title}</To>
                {!n.readAt && <span className="unseen"> (not read)</span>}
              </span>
              <time className="soft small" dateTime={n.at}>
                {dayTime(n.at)}
              </time>
            </div>
            {n.lines.map((line, i) => (
              <div key={i} className="soft small clip" title={line}>
                {line}
              </div>
            ))}
          </li>
        ))}
      </ol>
      {shown.length > 20 && <p className="soft small">{count(shown.length, 'notice')}, the latest first.</p>}
    </>
  );
}

/** Asks the browser whether it may show what a job has brought; says so where that is settled. */
function BrowserNotices() {
  const [asked, setAsked] = useState(false);
  const awake = useAwake();
  const settled =
    awake && ('Notification' in window ? SETTLED[Notification.permission] : 'This browser shows no notices.');
  if (settled) return <span className="soft small">{settled}</span>;
  return (
    <button
      className="put"
      onClick={() => {
        allowNotices();
        setAsked(true);
      }}
    >
      {asked ? 'The browser asks you' : 'Notify in this browser'}
    </button>
  );
}

/** What there is to say where the browser needs not be asked (Notifications API, 2.4). */
const SETTLED: Readonly<Record<NotificationPermission, string>> = {
  default: '',
  granted: 'This browser notifies you.',
  denied: 'This browser blocks notices of this address.',
};
