import { runJob } from '../jobs/runJob';
import type { JobKind } from '../jobs/kinds';
import { openStore } from '../store/store';

/** One job for a thread of its own, with a connection of its own to the database. */
export interface JobTask {
  readonly data: string;
  readonly id: number;
  readonly kind: JobKind;
  readonly owner: string;
}

/** Runs one job to its end. */
export async function runTask(task: JobTask): Promise<void> {
  const store = await openStore(task.data);
  try {
    await runJob(store, task, task.owner);
  } finally {
    await store.destroy();
  }
}
