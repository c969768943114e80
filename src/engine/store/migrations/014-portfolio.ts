import { sql, type Kysely } from 'kysely';
import { gunzipSync } from 'node:zlib';

/** Groups of sites, and when the first certificate of a probe ends. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .alterTable('sites')
    .addColumn('group_name', 'text', (c) => c.notNull().defaultTo(''))
    .execute();
  await db.schema.alterTable('probes').addColumn('first_end', 'integer').execute();
  const { rows } = await sql<{ id: number; report: Uint8Array }>`select id, report from probes`.execute(db);
  for (const { id, report } of rows) {
    const { certificates = [] } = JSON.parse(gunzipSync(report).toString('utf8')) as {
      certificates?: readonly { validTo: string }[];
    };
    const ends = certificates.map((c) => Date.parse(c.validTo)).filter(Number.isFinite);
    if (ends.length > 0) await sql`update probes set first_end = ${Math.min(...ends)} where id = ${id}`.execute(db);
  }
  // Sweeps of hundreds of sites are counted at once.
  await sql`create index limit_results_sweep on limit_results (limit_id, judged_at)`.execute(db);
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await sql`drop index limit_results_sweep`.execute(db);
  await db.schema.alterTable('probes').dropColumn('first_end').execute();
  await db.schema.alterTable('sites').dropColumn('group_name').execute();
}
