import { fork, type ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { addToken } from '../../src/engine/store/fleet/tokens';
import { openStore, type Store } from '../../src/engine/store/store';
import { startRedis, type TestRedis } from '../../test/fixtures/redis';
import { startBuiltServer } from '../builtServer';

/** A server with its queue, as several processes of this machine. */
export interface Fleet {
  readonly redis: TestRedis;
  readonly store: Store;
  readonly token: string;
  readonly url: string;
  /** The process of the server at hand. */
  server(): ChildProcess;
  startServer(): Promise<void>;
  stop(): Promise<void>;
}

const here = path.dirname(fileURLToPath(import.meta.url));

/** Starts Redis and the built server on a data folder of its own; `queue` false leaves recording to the server. */
export async function startFleet(folder: string, port: number, queue = true): Promise<Fleet> {
  fs.mkdirSync(folder, { recursive: true });
  const redis = await startRedis();
  const store = await openStore(folder);
  const { token } = await addToken(store, { name: 'bench', scope: 'record', accountId: null });
  const url = `http://127.0.0.1:${port}`;
  let child: ChildProcess;
  const startServer = async () => {
    child = await startBuiltServer(folder, port, {
      KEEN_LENS_LOG: 'fatal',
      ...(queue && { KEEN_LENS_QUEUE: redis.address }),
    });
    await fetch(`${url}/api/health`);
  };
  await startServer();
  return {
    redis,
    store,
    token,
    url,
    server: () => child,
    startServer,
    stop: async () => {
      await killed(child);
      await store.destroy();
      await redis.stop();
    },
  };
}

/** Recorders of `recorders.ts` in one process. */
export async function madeRecorders(fleet: Fleet, count: number, ms: number, lockMs?: number): Promise<ChildProcess> {
  const args = [count, ms, fleet.redis.address, fleet.url, fleet.token, lockMs ?? ''].map(String);
  const child = fork(path.join(here, 'recorders.ts'), args, { execArgv: ['--import', 'tsx'], stdio: 'inherit' });
  await new Promise((done, fail) => {
    child.once('message', done);
    child.once('exit', () => fail(new Error('recorders ended by themselves')));
  });
  return child;
}

/** Ends a process at once. */
export async function killed(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const ended = new Promise((done) => child.once('exit', done));
  child.kill('SIGKILL');
  await ended;
}

/** Waits until all recordings of some jobs have ended; gives how many are done and failed. */
export async function untilRecorded(store: Store, jobs: readonly number[]): Promise<{ done: number; failed: number }> {
  for (;;) {
    const rows = await store.selectFrom('recordings').select('state').where('job_id', 'in', jobs).execute();
    const total = await store
      .selectFrom('jobs')
      .select('id')
      .where('id', 'in', jobs)
      .where('state', 'in', ['queued', 'running'])
      .execute();
    const count = (state: string) => rows.filter((r) => r.state === state).length;
    if (rows.length > 0 && count('waiting') === 0 && rows.length >= jobs.length)
      return { done: count('done'), failed: count('failed') };
    if (total.length === 0) throw new Error('the jobs ended without their recordings');
    await pause(50);
  }
}

/** Waits until so many recordings of some jobs are done; gives how many are by then. */
export async function untilDone(store: Store, jobs: readonly number[], count: number): Promise<number> {
  for (;;) {
    const row = await store
      .selectFrom('recordings')
      .select((e) => e.fn.countAll<number>().as('n'))
      .where('job_id', 'in', jobs)
      .where('state', '=', 'done')
      .executeTakeFirstOrThrow();
    if (row.n >= count) return row.n;
    await pause(50);
  }
}

/** Processor time that a process has taken so far, its threads included, in s (proc(5), /proc/PID/stat). */
export function cpuSeconds(pid: number | undefined): number {
  const fields = fs.readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  return (Number(fields[11]) + Number(fields[12])) / 100;
}
