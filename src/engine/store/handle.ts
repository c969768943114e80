import type { Database } from 'better-sqlite3';
import type { Store } from './store';

const handles = new WeakMap<Store, Database>();

/** Tells which connection a store uses. */
export function keepHandle(store: Store, database: Database): void {
  handles.set(store, database);
}

/** The connection of a store; none inside another transaction. */
export const handleOf = (store: Store): Database | undefined => handles.get(store);

/**
 * A text that changes with every change of the database, by this connection or by another one (SQLite: data_version,
 * total_changes).
 */
export function stateOf(store: Store): string {
  const database = handleOf(store);
  if (!database) throw new Error('only a store has a state, not a transaction');
  const { own } = database.prepare('select total_changes() as own').get() as { own: number };
  return `${own} ${String(database.pragma('data_version', { simple: true }))}`;
}
