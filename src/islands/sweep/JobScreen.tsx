import { useState } from 'react';
import type { SweepSettings } from '../../core/site/settings';
import type { SweepNote } from '../../engine/store/crawlPages';
import type { JobRow } from '../../engine/store/jobs';
import type { PageRow } from '../../engine/store/pageList';
import type { RecordingRow } from '../../engine/store/recordings';
import { shownError, useResource, type ShownError } from '../state/api';
import { act, actionsOf, isOpen, useJobs } from '../state/jobs';
import { count, dayTime } from '../ui/format';
import { ErrorBox, Loading, Term } from '../ui/parts';
import { COUNTS, jobShare, lasted, left, rate } from './jobWords';
import { settingsFacts } from './settingsWords';
import { To } from '../ui/To';
import { island } from '../frame/island';

type JobDetails = JobRow & { readonly recordings: readonly RecordingRow[]; readonly notes: readonly SweepNote[] };

const ACTIONS = { pause: 'Pause', resume: 'Resume', cancel: 'Cancel', retry: 'Retry failed' } as const;

/** One job: what it is doing, what it found, what failed and why. */
export function JobScreen({ siteId, jobId }: { siteId: number; jobId: number }) {
  const { jobs, cut } = useJobs();
  const [error, setError] = useState<ShownError>();
  const live = jobs?.find((j) => j.id === jobId);
  // Lists change with the work: looked at again as it goes on.
  const step = `${live?.state ?? ''} ${live?.phase ?? ''} ${Math.floor((live?.progress?.done ?? 0) / 200)} ${live?.progress?.failed ?? 0} ${live?.phase === 'recording pages' ? (live.progress?.done ?? 0) : ''}`;
  const details = useResource<JobDetails>(`/api/jobs/${jobId}`, step);
  const { reload } = details;
  const job = live ?? details.value;
  if (details.error && !details.value) return <ErrorBox error={details.error} retry={details.reload} />;
  if (!job) return <Loading what="Reading the job" />;
  const p = job.progress;
  const share = jobShare(job);
  return (
    <>
      <h1 className="serif">{job.title}</h1>
      <p className="lead" role="status">
        <b>{stateWords(job)}</b>
        {job.phase && isOpen(job) && <span className="soft"> · {job.phase}</span>}
        {p?.waiting && <span className="cost"> · {p.waiting}</span>}
      </p>
      {cut && <p className="cost">The connection to the server is cut; what you see may be old. Trying again.</p>}
      {isOpen(job) && (
        <div className="progress-line">
          <progress max={1} value={share} aria-label="Progress" />
          <span>
            {p && p.total > 0 ? `${p.done.toLocaleString('en-GB')} of ${p.total.toLocaleString('en-GB')}` : 'starting'}
          </span>
          {job.state === 'running' && (
            <span className="soft">{[rate(p?.perSecond), left(p?.secondsLeft)].filter(Boolean).join(', ')}</span>
          )}
        </div>
      )}
      <p className="tools">
        {actionsOf(job).map((a) => (
          <button
            data-needs="auditor"
            key={a}
            className="button"
            onClick={() => void act(job.id, a).then(reload, (e: unknown) => setError(shownError(e)))}
          >
            {ACTIONS[a]}
          </button>
        ))}
        {job.sweepId !== null && (
          <>
            <To className="link" to={`/sites/${siteId}/pages?view=all&sweep=${job.sweepId ?? ''}`}>
              Open the pages
            </To>
            {job.state === 'done' && (
              <To className="link" to={`/sites/${siteId}?sweep=${job.sweepId ?? ''}`}>
                Open the brief
              </To>
            )}
          </>
        )}
        {job.startedAt && (
          <span className="soft right">
            started {dayTime(job.startedAt)}, {lasted(job.startedAt, job.endedAt)}
          </span>
        )}
      </p>
      {error && <ErrorBox error={error} />}
      {job.error && <ErrorBox error={job.error} />}
      {p && (
        <dl className="figures">
          {COUNTS.filter((c) => p.counts[c.key] !== undefined).map((c) => (
            <div key={c.key}>
              <dd>{(c.format ?? ((n: number) => n.toLocaleString('en-GB')))(p.counts[c.key] ?? 0)}</dd>
              <dt>
                <Term means={c.means}>{c.name}</Term>
              </dt>
            </div>
          ))}
          <div>
            <dd className={p.failed > 0 ? 'cost' : ''}>{p.failed.toLocaleString('en-GB')}</dd>
            <dt>failed</dt>
          </div>
        </dl>
      )}
      {job.state === 'running' && p && <Now progress={p} />}
      {details.value && <Recordings list={details.value.recordings} />}
      {job.sweepId !== null && (p?.failed ?? 0) > 0 && <Failed sweepId={job.sweepId} step={step} siteId={siteId} />}
      {details.value && <Notes notes={details.value.notes} />}
      {job.kind === 'sweep' && job.sweepId !== null && <Settings sweepId={job.sweepId} />}
    </>
  );
}

function stateWords(job: JobRow): string {
  if (job.wanted === 'pause') return 'Pausing';
  if (job.wanted === 'cancel') return 'Cancelling, keeping what was fetched';
  switch (job.state) {
    case 'queued':
      return job.place ? `Queued behind ${count(job.place, 'job')}` : 'Starts in a moment';
    case 'running':
      return 'Running';
    case 'paused':
      return 'Paused. It resumes where it stopped';
    case 'done':
      return 'Done';
    case 'failed':
      return 'Failed';
    case 'cancelled':
      return 'Cancelled. What was fetched before is kept';
  }
}

function Now({ progress }: { progress: NonNullable<JobRow['progress']> }) {
  return (
    <div className="split">
      <section>
        <h2>In progress</h2>
        <ul className="feed mono small">
          {progress.now.map((u) => (
            <li key={u}>{u}</li>
          ))}
          {progress.now.length === 0 && <li className="soft">nothing right now</li>}
        </ul>
      </section>
      <section>
        <h2>Latest responses</h2>
        <ul className="feed mono small">
          {progress.recent.map((r) => (
            <li key={r.what}>
              <span className={r.ok ? 'soft' : 'cost strong'}>{r.result}</span> {r.what}
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

function Recordings({ list }: { list: readonly RecordingRow[] }) {
  if (list.length === 0) return null;
  const words = { waiting: 'waits', done: 'recorded', failed: 'failed' } as const;
  return (
    <section>
      <h2>Recorded by a browser</h2>
      <table className="rows">
        <tbody>
          {list.map((r) => (
            <tr key={r.id}>
              <td className="mono small">{r.url}</td>
              <td>{r.device}</td>
              <td className="soft">{r.why}</td>
              <td className={r.state === 'failed' ? 'cost' : ''}>
                {words[r.state]}
                {r.error && <div className="small">{r.error}</div>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Failed({ sweepId, siteId, step }: { sweepId: number; siteId: number; step: string }) {
  const failed = useResource<{ total: number; rows: PageRow[] }>(
    `/api/sweeps/${sweepId}/pages?state=failed&limit=20&sort=url&descending=false`,
    step,
  );
  if (!failed.value?.total) return null;
  return (
    <section>
      <h2>
        What failed: {count(failed.value.total, 'page')}{' '}
        <To className="link" to={`/sites/${siteId}/pages?view=all&sweep=${sweepId}&state=failed`}>
          all of them
        </To>
      </h2>
      <table className="rows">
        <tbody>
          {failed.value.rows.map((r) => (
            <tr key={r.id}>
              <td className="mono small">{r.url}</td>
              <td>{r.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Notes({ notes }: { notes: readonly SweepNote[] }) {
  if (notes.length === 0) return null;
  return (
    <section>
      <h2>Sweep warnings</h2>
      <table className="rows">
        <tbody>
          {notes.map((n) => (
            <tr key={`${n.kind} ${n.about}`}>
              <td>
                {n.what}
                <div className="mono small soft">
                  {n.example.slice(0, 160)}
                  {n.source && `, linked from ${n.source}`}
                </div>
              </td>
              <td className="right">{count(n.count, 'time')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Settings({ sweepId }: { sweepId: number }) {
  const sweep = useResource<{ settings?: SweepSettings }>(`/api/sweeps/${sweepId}`);
  if (!sweep.value?.settings) return null;
  return (
    <details className="fold">
      <summary>How this sweep was set</summary>
      <div className="facts">
        <dl>
          {settingsFacts(sweep.value.settings).map(([name, value]) => (
            <div key={name} className="fact">
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      </div>
    </details>
  );
}

export default island(JobScreen, 'site');
