import type { Wanted } from '../crawl/control';
import type { JobContext } from '../services/runSweep';
import type { Store } from '../store/store';

/** Runs a job to its end, or until it is asked to stop: returns what was asked. */
export type Work = (store: Store, jobId: number, context: JobContext) => Promise<Wanted | undefined>;

/** One kind of job. */
export interface JobType {
  /** Jobs of a lane run one after the other: those that open pages share the browser and the network. */
  readonly lane: 'pages' | 'files';
  /** A cancelled job that has results is run once more, to be finished with what it has. */
  readonly finishesWhenCancelled?: true;
  /** The work is loaded when it runs, so that listing jobs needs none of it. */
  readonly load: () => Promise<Work>;
}

/** Every kind of job: a new one is a file in `services/` and a line here. */
export const JOB_KINDS = {
  sweep: {
    lane: 'pages',
    finishesWhenCancelled: true,
    load: async () => (await import('../services/runSweep')).runSweep,
  },
  record: { lane: 'pages', load: async () => (await import('../services/runRecordings')).runRecordings },
  import: { lane: 'files', load: async () => (await import('../services/runImport')).runImport },
  examine: { lane: 'files', load: async () => (await import('../services/runExamination')).runExamination },
} satisfies Readonly<Record<string, JobType>>;

export type JobKind = keyof typeof JOB_KINDS;

/** A kind by its id. */
export const jobType = (kind: JobKind): JobType => JOB_KINDS[kind];

/** The lane of a kind. */
export const laneOf = (kind: JobKind): JobType['lane'] => jobType(kind).lane;
