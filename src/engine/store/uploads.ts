import fs from 'node:fs/promises';
import path from 'node:path';
import { sealerOf } from './sealed';
import { dataFolder, type Store } from './store';

/** Where uploaded files wait for their import; made when absent, for its owner alone. */
export async function uploadFolder(): Promise<string> {
  const folder = folderIn(dataFolder());
  await fs.mkdir(folder, { recursive: true, mode: 0o700 });
  return folder;
}

const folderIn = (data: string) => path.join(data, 'uploads');

/** Removes uploaded files that no job will read: they hold what is cut only as it is read. */
export async function removeStrayUploads(store: Store, data: string): Promise<number> {
  const folder = folderIn(data);
  const names = await fs.readdir(folder).catch(() => []);
  if (names.length === 0) return 0;
  const jobs = await store
    .selectFrom('jobs')
    .select('input')
    .where('kind', 'in', ['import', 'move'])
    .where('state', 'in', ['queued', 'running', 'paused'])
    .execute();
  const sealer = await sealerOf(store);
  const needed = new Set(jobs.map((j) => path.basename((JSON.parse(sealer.open(j.input)) as { file: string }).file)));
  const stray = names.filter((name) => !needed.has(name));
  for (const name of stray) await fs.rm(path.join(folder, name), { force: true, recursive: true });
  return stray.length;
}
