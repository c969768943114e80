import fs from 'node:fs/promises';
import path from 'node:path';
import { folderOfStore } from '../store/location';
import { sealerOf } from '../store/sealed';
import { listRemoteTasks } from '../store/fleet/remoteTasks';
import type { Store } from '../store/store';
import { moveWhole } from './inbox';

/** Where lies what tasks take and bring, for its owner alone. What they take is encrypted: it may hold a site's password. */
async function fileOf(store: Store, id: number, part: 'input' | 'result'): Promise<string> {
  const folder = await taskFolder(store);
  await fs.mkdir(folder, { recursive: true, mode: 0o700 });
  return path.join(folder, `${id}.${part}`);
}

const taskFolder = async (store: Store) => path.join(await folderOfStore(store), 'remote-tasks');

export async function writeTaskInput(store: Store, id: number, bytes: Uint8Array): Promise<void> {
  const file = await fileOf(store, id, 'input');
  await fs.writeFile(`${file}.new`, (await sealerOf(store)).sealBytes(bytes), { mode: 0o600 });
  await fs.rename(`${file}.new`, file);
}

/** What a task takes; undefined when it is gone. */
export async function readTaskInput(store: Store, id: number): Promise<Buffer | undefined> {
  const sealed = await fs.readFile(await fileOf(store, id, 'input')).catch(() => undefined);
  return sealed && (await sealerOf(store)).openBytes(sealed);
}

/** Takes a result in: it is on the disk, whole, before the recorder hears that it may forget it. */
export async function handInResult(store: Store, id: number, file: string): Promise<void> {
  await moveWhole(file, await fileOf(store, id, 'result'));
}

/** What was handed in for a task; undefined while nothing was. */
export const readTaskResult = async (store: Store, id: number): Promise<Buffer | undefined> =>
  fs.readFile(await fileOf(store, id, 'result')).catch(() => undefined);

export async function removeTaskFiles(store: Store, id: number): Promise<void> {
  for (const part of ['input', 'result'] as const) await fs.rm(await fileOf(store, id, part), { force: true });
}

/** Removes the files of tasks that are gone, as after a job was deleted. */
export async function removeStrayTaskFiles(store: Store): Promise<number> {
  const folder = await taskFolder(store);
  const known = new Set(await listRemoteTasks(store));
  const names = await fs.readdir(folder).catch(() => []);
  const stray = names.filter((n) => !known.has(Number.parseInt(n, 10)));
  for (const name of stray) await fs.rm(path.join(folder, name), { force: true });
  return stray.length;
}
