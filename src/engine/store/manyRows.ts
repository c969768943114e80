import type { Database, Statement } from 'better-sqlite3';
import { handleOf } from './handle';
import type { Store } from './store';

type Value = string | number | null | undefined;

/** Writes many rows of the same form with one prepared statement each form. */
export interface RowWriter {
  /** Runs a statement for each row; the values go to its question marks. */
  write(statement: string, rows: Iterable<Value[]>): void;
  /** The same for statements that return something of each row. */
  read<T>(statement: string, rows: Iterable<Value[]>): T[];
}

const prepared = new WeakMap<Database, Map<string, Statement>>();

/**
 * Writes rows by the thousand in one transaction. A query builder compiles and binds each statement anew, which
 * for rows by the ten thousand costs more than the writing; everything else goes through it.
 */
export function writeMany<T>(store: Store, write: (writer: RowWriter) => T): Promise<T> {
  const database = handleOf(store);
  if (!database) throw new Error('rows can be written to a store only, not inside another transaction');
  const known = prepared.get(database) ?? new Map<string, Statement>();
  prepared.set(database, known);
  const statement = (text: string) => {
    const found = known.get(text) ?? database.prepare(text);
    known.set(text, found);
    return found;
  };
  // The store's own transaction keeps its other queries out meanwhile.
  return store.transaction().execute(() =>
    Promise.resolve(
      write({
        write: (text, rows) => {
          const s = statement(text);
          for (const row of rows) s.run(bound(row));
        },
        read: <R>(text: string, rows: Iterable<Value[]>) => {
          const s = statement(text);
          const out: R[] = [];
          for (const row of rows) out.push(s.get(bound(row)) as R);
          return out;
        },
      }),
    ),
  );
}

/** What is not known is NULL; rows are made for one writing, so they may be changed. */
function bound(row: Value[]): Value[] {
  for (let i = 0; i < row.length; i++) row[i] ??= null;
  return row;
}
