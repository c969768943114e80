/** One kind of job. */
export interface JobType {
  /** Jobs of a lane run one after the other: those that open pages share the browser and the network. */
  readonly lane: 'pages' | 'files' | 'fleet';
  /** A cancelled job that has results is run once more, to be finished with what it has. */
  readonly finishesWhenCancelled?: true;
}

/** Every kind of job. What each one does stands in `work.ts`, which has to name them all. */
export const JOB_KINDS = {
  sweep: { lane: 'pages', finishesWhenCancelled: true },
  record: { lane: 'pages' },
  probe: { lane: 'pages' },
  changes: { lane: 'pages' },
  fates: { lane: 'pages' },
  proof: { lane: 'pages' },
  check: { lane: 'pages' },
  import: { lane: 'files' },
  move: { lane: 'files' },
  examine: { lane: 'files' },
} satisfies Readonly<Record<string, JobType>>;

export type JobKind = keyof typeof JOB_KINDS;

/** A kind by its id. */
export const jobType = (kind: JobKind): JobType => JOB_KINDS[kind];

/**
 * The lane of a kind. Where recorders elsewhere open the pages, jobs that wait for them have a lane of their own, in which
 * several run at a time.
 */
export const laneOf = (kind: JobKind, byFleet = Boolean(process.env.KEEN_LENS_QUEUE)): JobType['lane'] =>
  byFleet && ['sweep', 'record', 'probe', 'proof'].includes(kind) ? 'fleet' : jobType(kind).lane;

/** Jobs of a lane that run at a time. */
export const LANE_WIDTH: Readonly<Record<JobType['lane'], number>> = { pages: 1, files: 1, fleet: 8 };

/** Threads of a lane: what mostly waits for recorders shares one. */
export const LANE_THREADS: Readonly<Record<JobType['lane'], number>> = { pages: 1, files: 1, fleet: 2 };
