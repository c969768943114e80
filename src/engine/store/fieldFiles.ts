import { gunzipSync, gzipSync } from 'node:zlib';
import type { Device } from '../../core/capture/capture';
import { latestRows, rowFinder, type FieldRow } from '../../core/field/fieldData';
import type { ReadField } from '../../core/field/readField';
import type { Store } from './store';

/** A file of field data as listed. */
export interface FieldFile {
  readonly id: number;
  readonly name: string;
  readonly addedAt: string;
  readonly readAs: string;
  /** Rows that were read. */
  readonly count: number;
  readonly unread: ReadField['unread'];
}

export async function listFieldFiles(store: Store, siteId: number): Promise<FieldFile[]> {
  const rows = await store
    .selectFrom('field_files')
    .select(['id', 'name', 'added_at as addedAt', 'read_as as readAs', 'count', 'unread'])
    .where('site_id', '=', siteId)
    .orderBy('id')
    .execute();
  return rows.map((r) => ({ ...r, unread: JSON.parse(r.unread) as FieldFile['unread'] }));
}

/** Adds a file; one of the same name takes the place of the older one. */
export async function addFieldFile(store: Store, siteId: number, name: string, read: ReadField): Promise<void> {
  const values = {
    added_at: new Date().toISOString(),
    read_as: read.as,
    unread: JSON.stringify(read.unread),
    count: read.rows.length,
    rows: gzipSync(JSON.stringify(read.rows)),
  };
  await store
    .insertInto('field_files')
    .values({ site_id: siteId, name, ...values })
    .onConflict((c) => c.columns(['site_id', 'name']).doUpdateSet(values))
    .execute();
}

export async function removeFieldFile(store: Store, siteId: number, id: number): Promise<boolean> {
  const result = await store
    .deleteFrom('field_files')
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .executeTakeFirst();
  return result.numDeletedRows > 0n;
}

/** All rows of a site; of the same page, device and month the file that came last counts. */
export async function fieldRows(store: Store, siteId: number): Promise<FieldRow[]> {
  const files = await store
    .selectFrom('field_files')
    .select('rows')
    .where('site_id', '=', siteId)
    .orderBy('added_at')
    .execute();
  const all = new Map<string, FieldRow>();
  for (const { rows } of files)
    for (const row of JSON.parse(gunzipSync(rows).toString('utf8')) as FieldRow[])
      all.set(`${row.of} ${row.address} ${row.device} ${row.month}`, row);
  return [...all.values()];
}

/** The latest field data of a site for a device. */
export interface LatestField {
  readonly rows: readonly FieldRow[];
  /** The row that speaks for a page: its own, else that of its origin. */
  rowFor(page: string): FieldRow | undefined;
}

const NONE: LatestField = { rows: [], rowFor: () => undefined };
/** Sites whose rows are held, as every screen asks for them. */
const MOST_HELD = 8;
const held = new WeakMap<Store, Map<string, LatestField>>();

/** The latest field data of a site, held from one request to the next until its files change. */
export async function latestField(store: Store, siteId: number, device: Device): Promise<LatestField> {
  const files = await store
    .selectFrom('field_files')
    .select(['id', 'added_at'])
    .where('site_id', '=', siteId)
    .orderBy('id')
    .execute();
  if (files.length === 0) return NONE;
  const key = `${siteId} ${device} ${files.map((f) => `${f.id} ${f.added_at}`).join(' ')}`;
  const own = held.get(store) ?? new Map<string, LatestField>();
  held.set(store, own);
  const known = own.get(key);
  if (known) return known;
  const rows = latestRows(await fieldRows(store, siteId), device);
  const latest = { rows, rowFor: rowFinder(rows) };
  const [oldest] = own.keys();
  if (own.size >= MOST_HELD && oldest !== undefined) own.delete(oldest);
  own.set(key, latest);
  return latest;
}
