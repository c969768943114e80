import { createHash } from 'node:crypto';
import type { Store } from './store';

/** SHA-256 of bytes, in hex. */
export function contentHash(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** Stores bytes once; returns their hash. */
export async function putBody(store: Store, bytes: Uint8Array): Promise<string> {
  const hash = contentHash(bytes);
  await store
    .insertInto('bodies')
    .values({ hash, size: bytes.length, bytes })
    .onConflict((c) => c.doNothing())
    .execute();
  return hash;
}

/** Bytes by hash; undefined when not stored. */
export async function getBody(store: Store, hash: string): Promise<Uint8Array | undefined> {
  const row = await store.selectFrom('bodies').select('bytes').where('hash', '=', hash).executeTakeFirst();
  return row && new Uint8Array(row.bytes);
}

/** Many bodies by hash. */
export async function getBodies(store: Store, hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
  const out = new Map<string, Uint8Array>();
  for (let i = 0; i < hashes.length; i += 200) {
    const rows = await store
      .selectFrom('bodies')
      .select(['hash', 'bytes'])
      .where('hash', 'in', hashes.slice(i, i + 200))
      .execute();
    for (const row of rows) out.set(row.hash, new Uint8Array(row.bytes));
  }
  return out;
}
