import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { log } from '../log';
import { store } from '../services/openedStore';
import { findJob, nextJobs, releaseJob, runningJobs, endJob } from '../store/jobs';
import { dataFolder, projectRoot, type Store } from '../store/store';
import type { JobTask } from '../workers/jobWorker';
import { shown } from './runJob';

/** A job whose owner was silent for so long is taken over, in ms. */
const SILENCE_MS = 60_000;
const TICK_MS = 500;

/** Names this process as the owner of jobs. */
export const OWNER = `${process.pid}:${randomUUID().slice(0, 8)}`;

const threads = new Map<number, Worker>();
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
    if (threads.has(job.id) || !isGone(job.owner, job.beatAt)) continue;
    log.info({ job: job.id }, 'a job was left behind: it goes on');
    await releaseJob(db, job.id);
  }
  for (const job of await nextJobs(db)) if (!threads.has(job.id)) start(db, job);
}

/** True when the process that has a job has ended, or has not been heard of for long. */
export function isGone(owner: string | null, beatAt: number | null): boolean {
  const [pid] = (owner ?? '').split(':');
  // Our own threads are known: a job of ours without one was left behind, also by an earlier process of our number.
  if (!Number(pid) || Number(pid) === process.pid) return true;
  try {
    process.kill(Number(pid), 0);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ESRCH') return true;
  }
  return Date.now() - (beatAt ?? 0) > SILENCE_MS;
}

function start(db: Store, job: Pick<JobTask, 'id' | 'kind'>): void {
  const task: JobTask = { data: dataFolder(), id: job.id, kind: job.kind, owner: OWNER };
  const thread = new Worker(path.join(projectRoot(), 'src/engine/workers/jobWorker.ts'), {
    workerData: task,
    execArgv: ['--import', 'tsx'],
  });
  threads.set(job.id, thread);
  thread.on('error', (error) => {
    log.error({ err: error, job: job.id }, 'the thread of a job ended');
    void failed(db, job.id, error);
  });
  thread.on('exit', () => {
    threads.delete(job.id);
    void tick();
  });
}

async function failed(db: Store, id: number, error: unknown): Promise<void> {
  const job = await findJob(db, id).catch(() => undefined);
  if (job?.state === 'running' || job?.state === 'queued') await endJob(db, id, 'failed', shown(error));
}
