import { sql } from 'kysely';
import zlib from 'node:zlib';
import type { Store } from './store';

/** Anybody may make up visitors: of each sweep no more values than these are kept, the latest ones. */
const MOST_KEPT = 120;
/** Sweeps that are read in one statement. */
const AT_ONCE = 1000;

/** How often what the figures of a sweep rest on has changed; undefined for a sweep that is not there. */
export async function revisionOf(store: Store, sweepId: number): Promise<number | undefined> {
  const row = await store.selectFrom('sweeps').select('revision').where('id', '=', sweepId).executeTakeFirst();
  return row?.revision;
}

/** A value that was worked out for a sweep as it is now; undefined when there is none, or an older one. */
export async function readKept<T>(store: Store, sweepId: number, name: string): Promise<T | undefined> {
  const row = await store
    .selectFrom('kept')
    .innerJoin('sweeps', 'sweeps.id', 'kept.sweep_id')
    .select('kept.value')
    .where('kept.sweep_id', '=', sweepId)
    .where('kept.name', '=', name)
    .whereRef('kept.revision', '=', 'sweeps.revision')
    .executeTakeFirst();
  return row && (JSON.parse(zlib.gunzipSync(row.value).toString('utf8')) as T);
}

/** The values of one name of many sweeps, by the sweep; those that are not there, or older, are left out. */
export async function readKeptOf<T>(store: Store, sweepIds: readonly number[], name: string): Promise<Map<number, T>> {
  const out = new Map<number, T>();
  for (let i = 0; i < sweepIds.length; i += AT_ONCE) {
    const rows = await store
      .selectFrom('kept')
      .innerJoin('sweeps', 'sweeps.id', 'kept.sweep_id')
      .select(['kept.sweep_id as id', 'kept.value'])
      .where('kept.sweep_id', 'in', sweepIds.slice(i, i + AT_ONCE))
      .where('kept.name', '=', name)
      .whereRef('kept.revision', '=', 'sweeps.revision')
      .execute();
    for (const { id, value } of rows) out.set(id, JSON.parse(zlib.gunzipSync(value).toString('utf8')) as T);
  }
  return out;
}

/** Whether such a value is there, without reading it. */
export async function isKept(store: Store, sweepId: number, name: string): Promise<boolean> {
  const row = await store
    .selectFrom('kept')
    .innerJoin('sweeps', 'sweeps.id', 'kept.sweep_id')
    .select('kept.sweep_id')
    .where('kept.sweep_id', '=', sweepId)
    .where('kept.name', '=', name)
    .whereRef('kept.revision', '=', 'sweeps.revision')
    .executeTakeFirst();
  return row !== undefined;
}

/**
 * Keeps a value that was worked out when the sweep had this revision; a sweep that has changed since, or is gone, takes
 * nothing.
 */
export async function writeKept(
  store: Store,
  sweepId: number,
  name: string,
  revision: number,
  value: unknown,
): Promise<void> {
  const packed = zlib.gzipSync(JSON.stringify(value));
  // Put in anew, not changed in its place: which values are the latest is told by the order in which rows were put in.
  await store
    .replaceInto('kept')
    .columns(['sweep_id', 'name', 'revision', 'value'])
    .expression((e) =>
      e
        .selectFrom('sweeps')
        .select((s) => ['sweeps.id', s.val(name).as('name'), s.val(revision).as('revision'), s.val(packed).as('value')])
        .where('sweeps.id', '=', sweepId)
        .where('sweeps.revision', '=', revision),
    )
    .execute();
  await store
    .deleteFrom('kept')
    .where('sweep_id', '=', sweepId)
    .where((e) =>
      e.or([
        // Of an older state of the sweep: nobody reads it any more.
        e('revision', 'not in', (q) =>
          q.selectFrom('sweeps').select('sweeps.revision').where('sweeps.id', '=', sweepId),
        ),
        e('name', 'not in', (q) =>
          q
            .selectFrom('kept as latest')
            .select('latest.name')
            .where('latest.sweep_id', '=', sweepId)
            .orderBy(sql`latest.rowid`, 'desc')
            .limit(MOST_KEPT),
        ),
      ]),
    )
    .execute();
}

/** The kept value of a name, else what `make` works out now, which is kept; undefined for a sweep that is not there. */
export async function keepOnce<T>(
  store: Store,
  sweepId: number,
  name: string,
  make: () => Promise<T>,
): Promise<T | undefined> {
  const known = await readKept<T>(store, sweepId, name);
  if (known !== undefined) return known;
  const revision = await revisionOf(store, sweepId);
  if (revision === undefined) return undefined;
  const made = await make();
  await writeKept(store, sweepId, name, revision, made);
  return made;
}
