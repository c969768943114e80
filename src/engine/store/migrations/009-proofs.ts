import type { Kysely } from 'kysely';

/** Forecasts that were compared with a real browser, and what became of fixes that are said to be done. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .createTable('proofs')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('job_id', 'integer', (c) => c.notNull())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('sweep_id', 'integer', (c) => c.references('sweeps.id').onDelete('set null'))
    .addColumn('capture_id', 'integer', (c) => c.references('captures.id').onDelete('set null'))
    .addColumn('page', 'text', (c) => c.notNull())
    .addColumn('title', 'text', (c) => c.notNull())
    .addColumn('device', 'text', (c) => c.notNull())
    .addColumn('visitor', 'text', (c) => c.notNull())
    .addColumn('visitor_name', 'text', (c) => c.notNull())
    .addColumn('groups', 'text', (c) => c.notNull())
    .addColumn('proved_at', 'text', (c) => c.notNull())
    .addColumn('proof', 'text', (c) => c.notNull())
    .execute();
  await db.schema.createIndex('proofs_of_site').on('proofs').columns(['site_id', 'id']).execute();
  await db.schema
    .createTable('outcomes')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('plan_id', 'integer', (c) => c.notNull().references('plans.id').onDelete('cascade'))
    .addColumn('sweep_id', 'integer', (c) => c.references('sweeps.id').onDelete('set null'))
    .addColumn('by', 'text', (c) => c.notNull())
    .addColumn('looked_at', 'text', (c) => c.notNull())
    .addColumn('outcome', 'text', (c) => c.notNull())
    .execute();
  await db.schema.createIndex('outcomes_of_plan').on('outcomes').columns(['plan_id', 'id']).execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.dropTable('outcomes').execute();
  await db.schema.dropTable('proofs').execute();
}
