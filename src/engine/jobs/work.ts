import type { Wanted } from '../crawl/control';
import { runExamination } from '../services/runExamination';
import { runImport } from '../services/runImport';
import { runRecordings } from '../services/runRecordings';
import { runSweep, type JobContext } from '../services/runSweep';
import type { Store } from '../store/store';
import type { JobKind } from './kinds';

/** Runs a job to its end, or until it is asked to stop: returns what was asked. */
export type Work = (store: Store, jobId: number, context: JobContext) => Promise<Wanted | undefined>;

/** What each kind of job does. */
export const WORK: Readonly<Record<JobKind, Work>> = {
  sweep: runSweep,
  record: runRecordings,
  import: runImport,
  examine: runExamination,
};
