import fs from 'node:fs/promises';
import path from 'node:path';
import { folderOfStore } from '../store/location';
import type { Store } from '../store/store';

/** Where recordings lie that recorders have handed in, until their job stores them; for its owner alone. */
async function inbox(store: Store): Promise<string> {
  const folder = path.join(await folderOfStore(store), 'inbox');
  await fs.mkdir(folder, { recursive: true, mode: 0o700 });
  return folder;
}

const nameOf = (recording: number) => `${recording}.har`;

/** Takes a file in: it is on the disk, whole, before the recorder hears that it may forget it. */
export async function handIn(store: Store, recording: number, file: string): Promise<void> {
  await moveWhole(file, path.join(await inbox(store), nameOf(recording)));
}

/** Moves a file that has come in: once this returns it is on the disk, whole. */
export async function moveWhole(file: string, to: string): Promise<void> {
  const handle = await fs.open(file, 'r+');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
  await fs.rename(file, to);
}

/** Numbers of the recordings that have been handed in, those first that came first. */
export async function handedIn(store: Store): Promise<number[]> {
  const folder = await inbox(store);
  const names = (await fs.readdir(folder)).filter((n) => /^\d+\.har$/.test(n));
  const found = await Promise.all(
    names.map(async (name) => ({ id: Number.parseInt(name, 10), at: await changedAt(path.join(folder, name)) })),
  );
  return found.sort((a, b) => a.at - b.at).map((f) => f.id);
}

const changedAt = (file: string): Promise<number> =>
  fs.stat(file).then(
    (s) => s.mtimeMs,
    () => 0,
  );

export const readHandedIn = async (store: Store, recording: number): Promise<Buffer> =>
  fs.readFile(path.join(await inbox(store), nameOf(recording)));

export async function forgetHandedIn(store: Store, recording: number): Promise<void> {
  await fs.rm(path.join(await inbox(store), nameOf(recording)), { force: true });
}

/** Removes what was handed in for recordings that nobody waits for. */
export async function removeStrayRecordings(store: Store): Promise<number> {
  const ids = await handedIn(store);
  if (ids.length === 0) return 0;
  const rows = await store
    .selectFrom('recordings')
    .select('id')
    .where('id', 'in', ids)
    .where('state', '=', 'waiting')
    .execute();
  const wanted = new Set(rows.map((r) => r.id));
  const stray = ids.filter((id) => !wanted.has(id));
  for (const id of stray) await forgetHandedIn(store, id);
  return stray.length;
}
