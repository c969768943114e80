import { currentSweep } from '../../core/site/currentSweep';
import type { Wanted } from '../crawl/control';
import { log } from '../log';
import { runFates } from '../services/runFates';
import { runProbe } from '../services/probeSite';
import { runExamination } from '../services/runExamination';
import { runImport } from '../services/runImport';
import { runMove } from '../services/runMove';
import { outcomesBySweep, runCheck } from '../services/planOutcomes';
import { runProof } from '../services/runProof';
import { runRecordings } from '../services/runRecordings';
import { runSweep, type JobContext } from '../services/runSweep';
import { afterRun } from '../watch/afterRun';
import { runChanges } from '../watch/visitPages';
import { keepForecasts } from '../services/keepForecasts';
import { findJob } from '../store/jobs';
import type { Store } from '../store/store';
import { thinSite } from '../store/retention';
import { findSweep, listSweeps } from '../store/sweeps';
import type { JobKind } from './kinds';

/** Runs a job to its end, or until it is asked to stop: returns what was asked. */
export type Work = (store: Store, jobId: number, context: JobContext) => Promise<Wanted | undefined>;

/**
 * Ends a job with the forecasts of its sweep, or of its site's current one, and with what became of fixes that are said
 * to be done: whoever opens it next finds them made. They are no part of what was asked for: without them the job is done
 * all the same.
 */
const withForecasts = (work: Work): Work => endingWith(work, keepWhatFollows, 'forecasts could not be made ahead');

/** Ends a job with what the watch has to say of it. */
const watched = (work: Work): Work => endingWith(work, afterRun, 'the watch could not judge this job');

const endingWith =
  (work: Work, more: (store: Store, jobId: number) => Promise<void>, fault: string): Work =>
  async (store, jobId, context) => {
    const stopped = await work(store, jobId, context);
    if (stopped) return stopped;
    try {
      await more(store, jobId);
    } catch (err) {
      log.warn({ err, job: jobId }, fault);
    }
    return undefined;
  };

async function keepWhatFollows(store: Store, jobId: number): Promise<void> {
  const sweepId = await sweepOfJob(store, jobId);
  if (sweepId === undefined) return;
  await keepForecasts(store, sweepId);
  await outcomesBySweep(store, sweepId);
  const { settings, siteId } = (await findSweep(store, sweepId)) ?? {};
  const keep = settings?.captures.keepSweeps ?? 0;
  if (siteId !== undefined && keep > 0) await thinSite(store, siteId, keep);
}

/** What each kind of job does. Files come one by one, and limits are tried out: those forecasts are made when
 * somebody looks. */
export const WORK: Readonly<Record<JobKind, Work>> = {
  sweep: watched(withForecasts(runSweep)),
  record: watched(withForecasts(runRecordings)),
  probe: watched(runProbe),
  changes: runChanges,
  fates: runFates,
  import: runImport,
  move: runMove,
  proof: runProof,
  check: runCheck,
  examine: runExamination,
};

async function sweepOfJob(store: Store, jobId: number): Promise<number | undefined> {
  const job = await findJob(store, jobId);
  if (job?.sweepId) return job.sweepId;
  return job?.siteId ? currentSweep(await listSweeps(store, job.siteId))?.id : undefined;
}
