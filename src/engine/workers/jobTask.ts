import { runJob } from '../jobs/runJob';
import type { JobKind } from '../jobs/kinds';
import fs from 'node:fs/promises';
import path from 'node:path';
import { openStore, TEMP, type Store } from '../store/store';

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

/** The database that the jobs of this thread share, and how many do. */
const open = new Map<string, { readonly store: Promise<Store>; users: number }>();

/**
 * Runs one job to its end. Jobs that run beside each other in a thread share one connection: of two connections one could
 * wait for the other without letting it go on.
 */
export async function runTask(task: JobTask): Promise<void> {
  await keepTempIn(task.data);
  const shared = open.get(task.data) ?? { store: openStore(task.data), users: 0 };
  open.set(task.data, shared);
  shared.users++;
  try {
    await runJob(await shared.store, task, task.owner);
  } finally {
    if (--shared.users === 0) {
      open.delete(task.data);
      await (await shared.store).destroy();
    }
  }
}
