import { sql, type Kysely } from 'kysely';
import { gunzipSync } from 'node:zlib';

interface OldCapture {
  readonly id: number;
  readonly capture: Uint8Array;
  readonly screenshot_hash: string | null;
}

/** Captures that are read at a time. */
const CHUNK = 200;

/** Which files a capture uses, so that what nobody uses is found without reading every capture; and whether it still has them. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('captures').addColumn('thinned_at', 'text').execute();
  // A number of its own for each file: SQLite gives rows without one new numbers when it writes the database anew (VACUUM).
  await sql`create table numbered_bodies (
    id integer primary key,
    hash text not null unique,
    size integer not null,
    bytes blob not null
  )`.execute(db);
  await sql`insert into numbered_bodies (hash, size, bytes) select hash, size, bytes from bodies`.execute(db);
  await sql`drop table bodies`.execute(db);
  await sql`alter table numbered_bodies rename to bodies`.execute(db);
  await sql`create table capture_bodies (
    capture_id integer not null references captures (id) on delete cascade,
    body_id integer not null,
    primary key (capture_id, body_id)
  ) without rowid`.execute(db);
  await sql`create index capture_bodies_body on capture_bodies (body_id)`.execute(db);
  for (let last = 0; ;) {
    const { rows } = await sql<OldCapture>`
      select id, capture, screenshot_hash from captures where id > ${last} order by id limit ${CHUNK}`.execute(db);
    for (const row of rows) {
      last = row.id;
      const hashes = [...hashesIn(row.capture), ...(row.screenshot_hash ? [row.screenshot_hash] : [])];
      for (const hash of new Set(hashes))
        await sql`insert or ignore into capture_bodies select ${row.id}, id from bodies where hash = ${hash}`.execute(
          db,
        );
    }
    if (rows.length < CHUNK) break;
  }
}

/** Hashes of the files of a capture; a capture that cannot be read has none that anybody could show. */
function hashesIn(capture: Uint8Array): string[] {
  try {
    const { loads } = JSON.parse(gunzipSync(capture).toString('utf8')) as { loads: { bodyHash?: string }[] };
    return loads.flatMap((l) => l.bodyHash ?? []);
  } catch {
    return [];
  }
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.dropTable('capture_bodies').execute();
  await db.schema.alterTable('captures').dropColumn('thinned_at').execute();
}
