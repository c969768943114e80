import { InputError } from '../../core/capture/errors';
import { Control } from '../crawl/control';
import { log } from '../log';
import type { JobContext } from '../services/runSweep';
import { beatJob, claimJob, endJob, reportJob, type JobError, type JobProgress, type JobRow } from '../store/jobs';
import { storeFault } from '../store/faults';
import type { Store } from '../store/store';
import { WORK } from './work';

/** How often a job says that it lives, stores its progress and looks whether it should stop, in ms. */
const BEAT_MS = 400;

/** Options of a run. */
export interface RunOptions {
  readonly control?: Control;
  /** Called with each report, besides storing it. */
  readonly onProgress?: JobContext['onProgress'];
}

/**
 * Runs a queued job to its end: claims it, stores progress, heeds pause and cancel, stores how it ended. Returns
 * false when somebody else has the job.
 */
export async function runJob(
  store: Store,
  job: Pick<JobRow, 'id' | 'kind'>,
  owner: string,
  options: RunOptions = {},
): Promise<boolean> {
  if (!(await claimJob(store, job.id, owner))) return false;
  const control = options.control ?? new Control();
  let latest: { progress: JobProgress; phase: string } | undefined;
  let stored: typeof latest;
  let lost = false;
  const beat = async () => {
    const wanted = await beatJob(store, job.id, owner);
    if (wanted === 'lost') {
      lost = true;
      control.stop('pause');
    } else if (wanted && !control.wanted) control.stop(wanted);
    if (latest === stored || !latest || lost) return;
    stored = latest;
    await reportJob(store, job.id, latest.progress, latest.phase);
  };
  const timer = setInterval(() => void beat().catch((err: unknown) => log.warn({ err }, 'job beat failed')), BEAT_MS);
  try {
    await beat();
    await WORK[job.kind](store, job.id, {
      control,
      onProgress: (progress, phase) => {
        latest = { progress, phase };
        options.onProgress?.(progress, phase);
      },
    });
    clearInterval(timer);
    if (lost) return true;
    if (latest) await reportJob(store, job.id, quiet(latest.progress), latest.phase);
    await endJob(store, job.id, control.wanted === 'pause' ? 'paused' : control.wanted ? 'cancelled' : 'done');
  } catch (error) {
    clearInterval(timer);
    if (lost) return true;
    if (!(error instanceof InputError)) log.error({ err: error, job: job.id }, 'job failed');
    await endJob(store, job.id, 'failed', shown(error));
  } finally {
    clearInterval(timer);
  }
  return true;
}

/** Nothing is being worked on once a job has ended. */
const quiet = (progress: JobProgress): JobProgress => ({
  ...progress,
  now: [],
  waiting: undefined,
  perSecond: undefined,
  secondsLeft: undefined,
});

/** An error as it is stored with the job. */
export function shown(error: unknown): JobError {
  if (error instanceof InputError) return { what: error.what, where: error.where, next: error.next };
  const fault = storeFault(error);
  if (fault) return { what: fault.what, where: fault.where, next: fault.next };
  return {
    what: 'Something went wrong on our side.',
    where: error instanceof Error ? error.message.slice(0, 200) : 'this job',
    next: 'The log of the server says more. Try again: it resumes where it stopped.',
  };
}
