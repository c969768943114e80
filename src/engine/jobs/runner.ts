import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { Piscina } from 'piscina';
import { log } from '../log';
import { store } from '../services/openedStore';
import { endJob, findJob, nextJobs, releaseJob, runningJobs } from '../store/jobs';
import { dataFolder, projectRoot, type Store } from '../store/store';
import type { JobTask } from '../workers/jobTask';
import { isGone } from './gone';
import { laneOf } from './kinds';
import { shown } from './runJob';

const TICK_MS = 500;

/** Names this process as the owner of jobs. */
export const OWNER = `${process.pid}:${randomUUID().slice(0, 8)}`;

/** Jobs that run in threads of this process. */
const own = new Set<number>();
/** One thread a lane, ended when it has had nothing to do for a while. */
const pools = new Map<string, Piscina<JobTask>>();
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
  for (const job of await runningJobs(db)) {
    if (own.has(job.id) || !isGone(job.owner, job.beatAt)) continue;
    log.info({ job: job.id }, 'a job was interrupted: it resumes');
    await releaseJob(db, job.id);
  }
  for (const job of await nextJobs(db)) if (!own.has(job.id)) start(db, job);
}

function start(db: Store, job: Pick<JobTask, 'id' | 'kind'>): void {
  own.add(job.id);
  poolOf(laneOf(job.kind))
    .run({ data: dataFolder(), id: job.id, kind: job.kind, owner: OWNER })
    .catch((error: unknown) => {
      log.error({ err: error, job: job.id }, 'the thread of a job ended');
      return failed(db, job.id, error);
    })
    .finally(() => {
      own.delete(job.id);
      void tick();
    });
}

function poolOf(lane: string): Piscina<JobTask> {
  let pool = pools.get(lane);
  if (!pool) {
    pool = new Piscina<JobTask>({
      filename: path.join(projectRoot(), 'src/engine/workers/jobWorker.mjs'),
      maxThreads: 1,
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
