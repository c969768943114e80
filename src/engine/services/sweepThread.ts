import { Piscina } from 'piscina';
import { folderOfStore } from '../store/location';
import { revisionOf } from '../store/kept';
import type { Store } from '../store/store';
import { threadModule } from '../workers/codeFile';
import type { SweepTask, SweepWork } from '../workers/sweepTask';

const running = new Map<string, Promise<unknown>>();
let threads: Piscina<SweepTask> | undefined;

/**
 * Works something out of a sweep as it is now in a thread of its own, once however many ask for it: the thread that
 * answers requests stays free. What is made is kept in the database.
 */
export async function inSweepThread<T>(store: Store, sweepId: number, work: SweepWork): Promise<T | undefined> {
  // What was begun before a mute or a capture came is of the sweep as it was.
  const key = `${sweepId} ${await revisionOf(store, sweepId)} ${JSON.stringify(work)}`;
  const data = await folderOfStore(store);
  const task = running.get(key) ?? run({ data, sweepId, work });
  running.set(key, task);
  try {
    // It may have changed meanwhile; whoever shows that asks again.
    return (await task) as T | undefined;
  } finally {
    running.delete(key);
  }
}

function run(task: SweepTask): Promise<unknown> {
  threads ??= new Piscina<SweepTask>({ ...threadModule('sweepTask'), maxThreads: 1, idleTimeout: 30_000 });
  return threads.run(task);
}
