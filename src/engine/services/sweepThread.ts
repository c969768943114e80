import { Piscina } from 'piscina';
import { folderOfStore } from '../store/location';
import { revisionOf } from '../store/kept';
import type { Store } from '../store/store';
import { threadModule } from '../workers/codeFile';
import type { SweepTask, SweepWork } from '../workers/sweepTask';

/** Something that is being worked out, of a state of its sweep. */
interface Running {
  readonly revision: number | undefined;
  readonly task: Promise<unknown>;
  readonly outdated: AbortController;
}

const running = new Map<string, Running>();
let threads: Piscina<SweepTask> | undefined;

/**
 * Works something out of a sweep as it is now in a thread of its own, once however many ask for it: the thread that
 * answers requests stays free. What is made is kept in the database. Once somebody asks after a mute or a new capture,
 * what is being made of the sweep as it was is ended: all get what is made now.
 */
export async function inSweepThread<T>(store: Store, sweepId: number, work: SweepWork): Promise<T | undefined> {
  const data = await folderOfStore(store);
  const key = `${data} ${sweepId} ${JSON.stringify(work)}`;
  for (;;) {
    const revision = await revisionOf(store, sweepId);
    const known = running.get(key);
    if (known && known.revision !== revision) known.outdated.abort();
    const own = known && known.revision === revision ? known : begin(key, revision, { data, sweepId, work });
    try {
      // It may have changed meanwhile; whoever shows that asks again.
      return (await own.task) as T | undefined;
    } catch (error) {
      if (!own.outdated.signal.aborted) throw error;
    }
  }
}

function begin(key: string, revision: number | undefined, work: SweepTask): Running {
  threads ??= new Piscina<SweepTask>({ ...threadModule('sweepTask'), maxThreads: 1, idleTimeout: 30_000 });
  const outdated = new AbortController();
  const task: Promise<unknown> = threads.run(work, { signal: outdated.signal }).finally(() => {
    if (running.get(key)?.task === task) running.delete(key);
  });
  const own = { revision, task, outdated };
  running.set(key, own);
  return own;
}
