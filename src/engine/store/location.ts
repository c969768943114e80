import path from 'node:path';
import { sql } from 'kysely';
import type { Store } from './store';

/** The folder in which a database lies, also of a transaction in it. */
export async function folderOfStore(store: Store): Promise<string> {
  const { rows } = await sql<{ name: string; file: string }>`pragma database_list`.execute(store);
  return path.dirname(rows.find((r) => r.name === 'main')?.file ?? '');
}
