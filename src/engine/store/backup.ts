import fs from 'node:fs';
import path from 'node:path';
import Database from 'better-sqlite3';
import { InputError } from '../../core/capture/errors';
import { storeFault } from './faults';
import { claimFolder } from './serverLock';
import { DATABASE, MIGRATIONS, openStore } from './store';

/** Pages of the database that are copied at a time: work on it goes on in between. */
const PAGES_AT_ONCE = 500;

/**
 * Copies the database of a data folder into one file while a server may work on it: the copy is what the database held
 * at one moment (SQLite, online backup). The key to secrets (secrets.key) is not in it.
 * @param onProgress share done, 0 to 1
 * @returns bytes of the copy
 * @throws InputError when there is no database, or the file cannot be written
 */
export async function backUp(folder: string, file: string, onProgress?: (share: number) => void): Promise<number> {
  const from = path.join(folder, DATABASE);
  if (!fs.existsSync(from))
    throw new InputError('There is no database to copy.', from, 'Name the data folder with --data.');
  const partial = `${file}.part`;
  let sqlite: Database.Database | undefined;
  try {
    sqlite = new Database(from, { readonly: true, fileMustExist: true });
    fs.closeSync(fs.openSync(partial, 'w', 0o600));
    await sqlite.backup(partial, {
      progress: ({ totalPages, remainingPages }) => {
        onProgress?.(totalPages === 0 ? 0 : 1 - remainingPages / totalPages);
        return PAGES_AT_ONCE;
      },
    });
    check(partial);
    fs.renameSync(partial, file);
    return fs.statSync(file).size;
  } catch (error) {
    fs.rmSync(partial, { force: true });
    if (error instanceof InputError) throw error;
    throw storeFault(error, file) ?? error;
  } finally {
    sqlite?.close();
  }
}

/**
 * Puts a copy in the place of the database of a data folder. What was there stays beside it under another name. The copy
 * is looked through first, and brought up to date where an older version made it.
 * @returns where the database that was there is now; undefined when there was none
 * @throws InputError when the file is no copy of ours or is damaged, or a server works on the folder
 */
export async function restore(folder: string, file: string, now: Date): Promise<string | undefined> {
  if (!fs.existsSync(file)) throw new InputError('There is no such file.', file, 'Give the path of a backup.');
  check(file);
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
  await claimFolder(folder, 0);
  const to = path.join(folder, DATABASE);
  const fresh = `${to}.restoring`;
  const aside = path.join(folder, `before-restore-${now.toISOString().slice(0, 19).replace(/[:T]/g, '-')}.db`);
  try {
    fs.copyFileSync(file, fresh);
    fs.chmodSync(fresh, 0o600);
    const had = fs.existsSync(to);
    if (had) {
      // What still stands in the log goes into the file before it is set aside.
      const sqlite = new Database(to);
      try {
        sqlite.pragma('wal_checkpoint(TRUNCATE)');
        sqlite.pragma('journal_mode = DELETE');
      } finally {
        sqlite.close();
      }
      fs.renameSync(to, aside);
    }
    for (const end of ['-wal', '-shm']) fs.rmSync(to + end, { force: true });
    fs.renameSync(fresh, to);
    const store = await openStore(folder);
    await store.destroy();
    return had ? aside : undefined;
  } catch (error) {
    fs.rmSync(fresh, { force: true });
    if (!fs.existsSync(to) && fs.existsSync(aside)) fs.renameSync(aside, to);
    if (error instanceof InputError) throw error;
    throw storeFault(error, folder) ?? error;
  }
}

/** @throws InputError for what is no database of ours, is damaged, or was made by a newer version */
function check(file: string): void {
  const fault = (what: string, next: string) => new InputError(what, file, next);
  let sqlite: Database.Database | undefined;
  try {
    sqlite = new Database(file, { readonly: true, fileMustExist: true });
    const ours = sqlite.prepare("select 1 from sqlite_master where name = 'kysely_migration'").get();
    if (!ours) throw fault('This is no backup of Keen Lens.', 'Give a file that `keen-lens backup` has written.');
    const done = sqlite.prepare('select name from kysely_migration').all() as { name: string }[];
    if (done.some((m) => !(m.name in MIGRATIONS)))
      throw fault('The backup was made by a newer Keen Lens.', 'Update Keen Lens first.');
    const [first] = sqlite.pragma('quick_check(1)') as { quick_check: string }[];
    if (first?.quick_check !== 'ok')
      throw fault(`The backup is damaged: ${first?.quick_check ?? 'it cannot be checked'}.`, 'Take another one.');
  } catch (error) {
    if (error instanceof InputError) throw error;
    const { code } = error as { code?: string };
    if (code === 'SQLITE_NOTADB' || code?.startsWith('SQLITE_CORRUPT'))
      throw fault(
        'This is no backup of Keen Lens, or it is damaged.',
        'Give a file that `keen-lens backup` has written.',
      );
    throw storeFault(error, file) ?? error;
  } finally {
    sqlite?.close();
  }
}
