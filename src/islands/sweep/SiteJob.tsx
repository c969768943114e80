import { useEffect, useRef } from 'react';
import type { JobRow } from '../../engine/store/jobs';
import { announceChange } from '../state/api';
import { act, isOpen, useJobs } from '../state/jobs';
import { left } from './jobWords';

/** The job of a kind that runs for a site, and a call when it has ended. */
export function useSiteJob(siteId: number, kind: JobRow['kind'], onDone: () => void): JobRow | undefined {
  const { jobs } = useJobs();
  const own = jobs?.filter((j) => j.kind === kind && j.siteId === siteId);
  const job = own?.find(isOpen);
  // A short job may have ended before its beginning was told.
  const ended = own && Math.max(0, ...own.filter((j) => !isOpen(j)).map((j) => j.id));
  const was = useRef<number | undefined>(undefined);
  const done = useRef(onDone);
  done.current = onDone;
  useEffect(() => {
    if (was.current !== undefined && ended !== undefined && ended > was.current) {
      // What the page came with is old now, on this view and on the others.
      announceChange();
      done.current();
    }
    was.current = ended ?? was.current;
  }, [ended]);
  return job;
}

/** A job's progress in one line, with a way to stop it. */
export function JobLine({ job }: { job: JobRow }) {
  const p = job.progress;
  return (
    <p className="notice" role="status">
      <span className="spinner" aria-hidden /> {job.state === 'queued' ? 'queued' : (job.phase ?? 'started')}
      {p && p.total > 0 && `: ${p.done.toLocaleString('en-GB')} of ${p.total.toLocaleString('en-GB')}`}
      {p?.now[0] && <span className="soft mono small"> {p.now[0]}</span>}
      {left(p?.secondsLeft) && <span className="soft">, {left(p?.secondsLeft)}</span>}{' '}
      <button data-needs="auditor" className="link" onClick={() => void act(job.id, 'cancel')}>
        Cancel
      </button>
    </p>
  );
}
