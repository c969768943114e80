import { runJob } from '../jobs/runJob';
import type { JobKind } from '../jobs/kinds';
import fs from 'node:fs/promises';
import path from 'node:path';
import { openStore, TEMP } from '../store/store';

/** One job for a thread of its own, with a connection of its own to the database. */
export interface JobTask {
  readonly data: string;
  readonly id: number;
  readonly kind: JobKind;
  readonly owner: string;
}

/** Longer folders leave no room for the sockets that a browser makes in them (sun_path holds 108 bytes). */
const LONGEST_TEMP = 50;

/** What a browser leaves behind when everything is killed then lies in the data folder, and is removed at the next start. */
async function keepTempIn(data: string): Promise<void> {
  const folder = path.join(data, TEMP);
  if (folder.length > LONGEST_TEMP) return;
  await fs.mkdir(folder, { recursive: true, mode: 0o700 });
  process.env.TMPDIR = folder;
}

/** Runs one job to its end. */
export async function runTask(task: JobTask): Promise<void> {
  await keepTempIn(task.data);
  const store = await openStore(task.data);
  try {
    await runJob(store, task, task.owner);
  } finally {
    await store.destroy();
  }
}
