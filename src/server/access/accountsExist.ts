import Database from 'better-sqlite3';
import path from 'node:path';
import { DATABASE } from '../../engine/store/store';

/** What was seen counts for so long, in ms. */
const AGAIN_MS = 1000;

/** Tells whether a database has accounts, for the gate, which stands before what opens the database to work on it. */
export function accountsIn(folder: string): () => boolean {
  let db: Database.Database | undefined;
  let seen = false;
  let at = 0;
  return () => {
    const now = Date.now();
    if (now - at < AGAIN_MS) return seen;
    at = now;
    try {
      db ??= new Database(path.join(folder, DATABASE), { readonly: true, fileMustExist: true });
      seen = db.prepare('select 1 from accounts limit 1').get() !== undefined;
    } catch {
      // Not there yet, or of an older version: it has none.
      db?.close();
      db = undefined;
      seen = false;
    }
    return seen;
  };
}
