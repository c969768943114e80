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
import { keepForecasts } from '../services/sweepForecasts';
import { findJob } from '../store/jobs';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import type { JobKind } from './kinds';

/** Runs a job to its end, or until it is asked to stop: returns what was asked. */
export type Work = (store: Store, jobId: number, context: JobContext) => Promise<Wanted | undefined>;

/**
 * Ends a job with the forecasts of its sweep, or of its site's current one, and with what became of fixes that are said
 * to be done: whoever opens it next finds them made. They are no part of what was asked for: without them the job is done
 * all the same.
 */
const withForecasts =
  (work: Work): Work =>
  async (store, jobId, context) => {
    const stopped = await work(store, jobId, context);
    if (stopped) return stopped;
    try {
      const sweepId = await sweepOfJob(store, jobId);
      if (sweepId !== undefined) await keepForecasts(store, sweepId);
      if (sweepId !== undefined) await outcomesBySweep(store, sweepId);
    } catch (err) {
      log.warn({ err, job: jobId }, 'forecasts could not be made ahead');
    }
    return undefined;
  };

/** What each kind of job does. Files come one by one, and limits are tried out: those forecasts are made when
 * somebody looks. */
export const WORK: Readonly<Record<JobKind, Work>> = {
  sweep: withForecasts(runSweep),
  record: withForecasts(runRecordings),
  probe: runProbe,
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
