import { randomUUID } from 'node:crypto';
import { Piscina } from 'piscina';
import { InputError } from '../../core/capture/errors';
import { log } from '../log';
import { store } from '../services/openedStore';
import { endJob, findJob, nextJobs, releaseJob, runningJobs } from '../store/jobs';
import { dataFolder, type Store } from '../store/store';
import { threadModule } from '../workers/codeFile';
import type { JobTask } from '../workers/jobTask';
import { isGone } from './gone';
import { LANE_THREADS, LANE_WIDTH, laneOf, type JobKind, type JobType } from './kinds';
import { shown } from './runJob';

const TICK_MS = 500;

/** Names this process as the owner of jobs. */
export const OWNER = `${process.pid}:${randomUUID().slice(0, 8)}`;

/** How long a thread may work without a sign of life, in ms: its work is then broken off and its lane free again. */
const SILENT_MS = 180_000;
/** Longest time between two looks while the machine is awake, in ms. */
const AWAKE_MS = 10_000;
let lastLook = 0;
/** How long a thread that was asked to stop may go on, in ms. */
const STOP_MS = 1500;

/** A job that runs in a thread of this process. */
interface OwnJob {
  readonly kind: JobKind;
  /** Ends its thread, and with it every other job in that. */
  readonly thread: AbortController;
}

const own = new Map<number, OwnJob>();
/** Jobs that were in a lane when a thread of it was ended because of another one: they go on afterwards. */
const displaced = new Set<number>();
/** The threads of each lane, ended when they have had nothing to do for a while. */
const pools = new Map<JobType['lane'], Piscina<JobTask>>();
let timer: NodeJS.Timeout | undefined;
let ticking: Promise<void> | undefined;

/** Starts running queued jobs in this process, and goes on with what a process that died left behind. */
export function startRunner(): void {
  timer ??= setInterval(() => void tick(), TICK_MS).unref();
}

/** Looks at once whether a job can start. */
export function tick(): Promise<void> {
  ticking ??= store()
    .then(look)
    .catch((err: unknown) => log.warn({ err }, 'the job queue could not be looked at'))
    .finally(() => (ticking = undefined));
  return ticking;
}

async function look(db: Store): Promise<void> {
  const now = Date.now();
  // A machine that slept makes every job look silent: threads are judged once they had time to say something.
  const awake = now - lastLook < AWAKE_MS;
  lastLook = now;
  for (const job of await runningJobs(db)) {
    const mine = own.get(job.id);
    if (mine && awake) endSilent(mine, job);
    if (mine || !isGone(job.owner, job.beatAt)) continue;
    log.info({ job: job.id }, 'a job was interrupted: it resumes');
    await releaseJob(db, job.id);
  }
  for (const job of await nextJobs(db)) if (!own.has(job.id)) start(db, job);
}

/** A thread that is busy with one thing sees neither the clock nor a cancel: it is ended from here. */
function endSilent({ kind, thread }: OwnJob, job: { id: number; beatAt: number | null; wanted: string | null }): void {
  const silentMs = Date.now() - (job.beatAt ?? Date.now());
  const lane = laneOf(kind);
  if (silentMs > SILENT_MS) {
    thread.abort(new TakesTooLong());
    if (isShared(lane)) endShared(lane, job.id);
  } else if (job.wanted === 'cancel' && silentMs > STOP_MS && !isShared(lane)) thread.abort(new Cancelled());
}

/** Whether jobs of a lane run beside each other in one thread. */
const isShared = (lane: JobType['lane']) => LANE_WIDTH[lane] > LANE_THREADS[lane];

/** Ends the threads of a lane for the sake of one job; the others go on in new ones. */
function endShared(lane: JobType['lane'], because: number): void {
  for (const [id, other] of own) if (id !== because && laneOf(other.kind) === lane) displaced.add(id);
  const pool = pools.get(lane);
  pools.delete(lane);
  void pool?.destroy();
}

class TakesTooLong extends InputError {
  constructor() {
    super(
      `It took longer than ${SILENT_MS / 60_000} minutes without an end, and was broken off.`,
      'this job',
      'A file or page of it is too costly to examine: leave it out, and try again.',
    );
  }
}

class Cancelled extends Error {}

function start(db: Store, job: Pick<JobTask, 'id' | 'kind'>): void {
  const thread = new AbortController();
  own.set(job.id, { kind: job.kind, thread });
  poolOf(laneOf(job.kind))
    // A task that can be ended by itself has a thread of its own.
    .run(
      { data: dataFolder(), id: job.id, kind: job.kind, owner: OWNER },
      isShared(laneOf(job.kind)) ? {} : { signal: thread.signal },
    )
    .catch(async (error: unknown) => {
      const reason: unknown = thread.signal.aborted ? thread.signal.reason : error;
      if (reason instanceof Cancelled) return endJob(db, job.id, 'cancelled');
      if (displaced.has(job.id)) return releaseJob(db, job.id);
      log.error({ err: reason, job: job.id }, 'the thread of a job ended');
      return failed(db, job.id, reason);
    })
    .catch((err: unknown) => log.warn({ err, job: job.id }, 'the end of a job could not be stored'))
    .finally(() => {
      own.delete(job.id);
      displaced.delete(job.id);
      void tick();
    });
}

function poolOf(lane: JobType['lane']): Piscina<JobTask> {
  let pool = pools.get(lane);
  if (!pool) {
    pool = new Piscina<JobTask>({
      ...threadModule('jobTask'),
      maxThreads: LANE_THREADS[lane],
      concurrentTasksPerWorker: LANE_WIDTH[lane] / LANE_THREADS[lane],
      idleTimeout: 30_000,
    });
    pools.set(lane, pool);
  }
  return pool;
}

async function failed(db: Store, id: number, error: unknown): Promise<void> {
  const job = await findJob(db, id).catch(() => undefined);
  if (job?.state === 'running' || job?.state === 'queued') await endJob(db, id, 'failed', shown(error));
}
