import fs from 'node:fs';
import path from 'node:path';
import Database from 'better-sqlite3';
import { Kysely, Migrator, SqliteDialect } from 'kysely';
import { InputError } from '../../core/capture/errors';
import { keepHandle } from './manyRows';
import * as start from './migrations/001-start';
import * as sweeps from './migrations/002-sweeps';
import * as causes from './migrations/003-causes';
import * as plans from './migrations/004-plans';
import * as checkNames from './migrations/005-check-names';
import type { Tables } from './schema';

/** An open database. */
export type Store = Kysely<Tables>;

const MIGRATIONS = {
  '001-start': start,
  '002-sweeps': sweeps,
  '003-causes': causes,
  '004-plans': plans,
  '005-check-names': checkNames,
};

/**
 * Opens the database of a data folder, making both when absent, and brings it up to date.
 * @throws InputError when the folder cannot be written.
 */
export async function openStore(folder: string): Promise<Store> {
  let sqlite: Database.Database;
  try {
    fs.mkdirSync(folder, { recursive: true });
    sqlite = new Database(path.join(folder, 'keen-lens.db'));
    sqlite.pragma('journal_mode = WAL');
    sqlite.pragma('synchronous = NORMAL');
    // Off while tables are rebuilt: dropping one would delete what refers to it.
    sqlite.pragma('foreign_keys = OFF');
    sqlite.pragma('busy_timeout = 10000');
    // Large enough for the indexes of a site of ten thousand pages (in KiB).
    sqlite.pragma('cache_size = -32000');
    sqlite.pragma('wal_autocheckpoint = 4000');
  } catch (error) {
    throw new InputError(
      `The data folder cannot be used: ${error instanceof Error ? error.message : String(error)}.`,
      folder,
      'Check that it may be written and that the disk has room, or name another with --data.',
    );
  }
  const store: Store = new Kysely<Tables>({ dialect: new SqliteDialect({ database: sqlite }) });
  const migrator = new Migrator({ db: store, provider: { getMigrations: () => Promise.resolve(MIGRATIONS) } });
  const { error } = await migrator.migrateToLatest();
  if (error) throw error instanceof Error ? error : new Error('migration failed');
  sqlite.pragma('foreign_keys = ON');
  keepHandle(store, sqlite);
  return store;
}

/** Where data is kept: KEEN_LENS_DATA, else `.data` in the project. */
export function dataFolder(): string {
  return process.env.KEEN_LENS_DATA ?? path.join(projectRoot(), '.data');
}

/** Where uploaded files wait for their import; made when absent. */
export async function uploadFolder(): Promise<string> {
  const folder = path.join(dataFolder(), 'uploads');
  await fs.promises.mkdir(folder, { recursive: true });
  return folder;
}

/** The folder with our package.json, from wherever the code was built to. */
export function projectRoot(): string {
  const stated = process.env.KEEN_LENS_ROOT;
  if (stated) return stated;
  let at = path.dirname(new URL(import.meta.url).pathname);
  while (at !== path.dirname(at)) {
    const file = path.join(at, 'package.json');
    if (fs.existsSync(file) && fs.readFileSync(file, 'utf8').includes('"keen-lens"')) return at;
    at = path.dirname(at);
  }
  return process.cwd();
}
