import fs from 'node:fs';
import path from 'node:path';
import Database from 'better-sqlite3';
import { Kysely, Migrator, SqliteDialect, type Driver } from 'kysely';
import { InputError } from '../../core/capture/errors';
import { storeFault } from './faults';
import { keepHandle } from './handle';
import * as start from './migrations/001-start';
import * as sweeps from './migrations/002-sweeps';
import * as causes from './migrations/003-causes';
import * as plans from './migrations/004-plans';
import * as checkNames from './migrations/005-check-names';
import * as sealed from './migrations/006-sealed';
import * as kept from './migrations/007-kept';
import * as https from './migrations/008-https';
import * as proofs from './migrations/009-proofs';
import * as watch from './migrations/010-watch';
import * as field from './migrations/011-field';
import * as fleet from './migrations/012-fleet';
import * as people from './migrations/013-people';
import * as portfolio from './migrations/014-portfolio';
import * as retention from './migrations/015-retention';
import * as remoteTasks from './migrations/016-remote-tasks';
import type { Tables } from './schema';

/** An open database. */
export type Store = Kysely<Tables>;

/** Every change of the database, in its order. */
export const MIGRATIONS = {
  '001-start': start,
  '002-sweeps': sweeps,
  '003-causes': causes,
  '004-plans': plans,
  '005-check-names': checkNames,
  '006-sealed': sealed,
  '007-kept': kept,
  '008-https': https,
  '009-proofs': proofs,
  '010-watch': watch,
  '011-field': field,
  '012-fleet': fleet,
  '013-people': people,
  '014-portfolio': portfolio,
  '015-retention': retention,
  '016-remote-tasks': remoteTasks,
};

/** Name of the folder for what a browser needs while it runs, in the data folder. */
export const TEMP = 'tmp';

/** Name of the database in its data folder. */
export const DATABASE = 'keen-lens.db';

/**
 * Opens the database of a data folder, making both when absent, and brings it up to date. Only their owner may read
 * them: they hold what pages hold.
 * @throws InputError when the folder cannot be used, or the database is damaged or of a newer version
 */
export async function openStore(folder: string): Promise<Store> {
  const file = path.join(folder, DATABASE);
  let sqlite: Database.Database | undefined;
  try {
    makePrivate(folder, file);
    sqlite = new Database(file);
    refuseNewer(sqlite, file);
    sqlite.pragma('journal_mode = WAL');
    sqlite.pragma('synchronous = NORMAL');
    // Off while tables are rebuilt: dropping one would delete what refers to it.
    sqlite.pragma('foreign_keys = OFF');
    sqlite.pragma('busy_timeout = 10000');
    // Large enough for the indexes of a site of ten thousand pages (in KiB).
    sqlite.pragma('cache_size = -32000');
    sqlite.pragma('wal_autocheckpoint = 4000');
  } catch (error) {
    sqlite?.close();
    if (error instanceof InputError) throw error;
    throw (
      storeFault(error, folder) ??
      new InputError(
        `The data folder cannot be used: ${error instanceof Error ? error.message : String(error)}.`,
        folder,
        'Check that it may be written and that the disk has room, or name another with --data.',
      )
    );
  }
  const store: Store = new Kysely<Tables>({ dialect: new StoreDialect(sqlite) });
  const migrator = new Migrator({ db: store, provider: { getMigrations: () => Promise.resolve(MIGRATIONS) } });
  const { error } = await migrator.migrateToLatest();
  if (error) {
    await store.destroy();
    throw storeFault(error, file) ?? (error instanceof Error ? error : new Error('migration failed'));
  }
  sqlite.pragma('foreign_keys = ON');
  keepHandle(store, sqlite);
  return store;
}

/** SQLite, whose own rollback after a full disk does not hide what went wrong. */
class StoreDialect extends SqliteDialect {
  constructor(private readonly database: Database.Database) {
    super({ database });
  }

  override createDriver(): Driver {
    const driver = super.createDriver();
    const rollback = driver.rollbackTransaction.bind(driver);
    driver.rollbackTransaction = async (connection) => {
      // SQLite ends a transaction by itself when the disk is full or fails (C interface, result codes).
      if (this.database.inTransaction) await rollback(connection);
    };
    return driver;
  }
}

/** A folder that was there before without a database of ours is somebody's own: its rights stay. */
function makePrivate(folder: string, file: string): void {
  const ours = fs.mkdirSync(folder, { recursive: true, mode: 0o700 }) !== undefined || fs.existsSync(file);
  // Made before SQLite makes it: the files beside it get the rights that it has.
  if (!fs.existsSync(file)) fs.closeSync(fs.openSync(file, 'a', 0o600));
  const shared = (fs.statSync(folder).mode & 0o1000) !== 0;
  if (ours && !shared) keepToOwner(folder, 0o700);
  for (const name of [file, `${file}-wal`, `${file}-shm`]) keepToOwner(name, 0o600);
}

function keepToOwner(name: string, mode: number): void {
  try {
    if ((fs.statSync(name).mode & 0o077) !== 0) fs.chmodSync(name, mode);
  } catch {
    // Not there, or another user's: then it is that user's to decide.
  }
}

function refuseNewer(sqlite: Database.Database, file: string): void {
  const table = sqlite.prepare("select name from sqlite_master where name = 'kysely_migration'").get();
  if (!table) return;
  const done = sqlite.prepare('select name from kysely_migration').all() as { name: string }[];
  const newer = done.find((m) => !(m.name in MIGRATIONS));
  if (newer)
    throw new InputError(
      `The database was made by a newer Keen Lens (it knows "${newer.name.slice(0, 60)}").`,
      file,
      'Update Keen Lens, or name another data folder with --data.',
    );
}

/** Where data is kept: KEEN_LENS_DATA, else `.data` in the project. */
export function dataFolder(): string {
  return process.env.KEEN_LENS_DATA ?? path.join(projectRoot(), '.data');
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
