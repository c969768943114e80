import { useEffect, useRef, useState } from 'react';
import type { JobRow } from '../../engine/store/jobs';
import { ask, shownError, type ShownError } from '../state/api';
import { act, isOpen, useJobs } from '../state/jobs';
import { ErrorBox } from '../ui/parts';

/** The job of a kind that runs for a site, and a call when it has ended. */
export function useSiteJob(siteId: number, kind: JobRow['kind'], onDone: () => void): JobRow | undefined {
  const { jobs } = useJobs();
  const job = jobs?.find((j) => j.kind === kind && j.siteId === siteId && isOpen(j));
  const was = useRef<number | undefined>(undefined);
  const done = useRef(onDone);
  done.current = onDone;
  useEffect(() => {
    if (was.current !== undefined && job?.id !== was.current) done.current();
    was.current = job?.id;
  }, [job?.id]);
  return job;
}

/** A job's progress in one line, with a way to stop it. */
export function JobLine({ job }: { job: JobRow }) {
  const p = job.progress;
  return (
    <p className="notice" role="status">
      <span className="spinner" aria-hidden /> {job.state === 'queued' ? 'queued' : (job.phase ?? 'started')}
      {p && p.total > 0 && `: ${p.done.toLocaleString('en-GB')} of ${p.total.toLocaleString('en-GB')}`}
      {p?.now[0] && <span className="soft mono small"> {p.now[0]}</span>}{' '}
      <button className="link" onClick={() => void act(job.id, 'cancel')}>
        Cancel
      </button>
    </p>
  );
}

/** Starts a probe and shows how far it is. */
export function AskEntrances({ siteId, askedAt, onDone }: { siteId: number; askedAt?: string; onDone: () => void }) {
  const job = useSiteJob(siteId, 'probe', onDone);
  const [error, setError] = useState<ShownError>();
  const start = () => {
    setError(undefined);
    ask(`/api/sites/${siteId}/entrances`, { method: 'POST' }).catch((e: unknown) => setError(shownError(e)));
  };
  if (job) return <JobLine job={job} />;
  return (
    <>
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button className="put" onClick={start}>
          {askedAt ? 'Ask again' : 'Ask for the ways in'}
        </button>
      </p>
    </>
  );
}
