import type { Kysely } from 'kysely';

/** Sites, sweeps, captures, findings and bodies. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .createTable('sites')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('home', 'text', (c) => c.notNull())
    .addColumn('created_at', 'text', (c) => c.notNull())
    .execute();
  await db.schema
    .createTable('sweeps')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('day', 'text', (c) => c.notNull())
    .addUniqueConstraint('sweeps_of_a_day', ['site_id', 'day'])
    .execute();
  await db.schema
    .createTable('captures')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('page', 'text', (c) => c.notNull())
    .addColumn('title', 'text', (c) => c.notNull())
    .addColumn('device', 'text', (c) => c.notNull())
    .addColumn('recorded_at', 'text', (c) => c.notNull())
    .addColumn('file_hash', 'text', (c) => c.notNull())
    .addColumn('file_name', 'text', (c) => c.notNull())
    .addColumn('requests', 'integer', (c) => c.notNull())
    .addColumn('bytes', 'integer', (c) => c.notNull())
    .addColumn('findings', 'integer', (c) => c.notNull())
    .addColumn('screenshot_hash', 'text')
    .addColumn('capture', 'blob', (c) => c.notNull())
    .addColumn('audit', 'blob', (c) => c.notNull())
    .execute();
  await db.schema.createIndex('captures_by_sweep').on('captures').columns(['sweep_id', 'device', 'page']).execute();
  await db.schema.createIndex('captures_by_file').on('captures').column('file_hash').execute();
  await db.schema
    .createTable('findings')
    .addColumn('capture_id', 'integer', (c) => c.notNull().references('captures.id').onDelete('cascade'))
    .addColumn('id', 'text', (c) => c.notNull())
    .addColumn('check', 'text', (c) => c.notNull())
    .addColumn('concern', 'text', (c) => c.notNull())
    .addColumn('harm', 'text', (c) => c.notNull())
    .addColumn('page', 'text', (c) => c.notNull())
    .addColumn('target', 'text', (c) => c.notNull())
    .addColumn('title', 'text', (c) => c.notNull())
    .addColumn('json', 'text', (c) => c.notNull())
    .addPrimaryKeyConstraint('findings_pk', ['capture_id', 'id'])
    .execute();
  await db.schema.createIndex('findings_by_concern').on('findings').columns(['concern', 'harm']).execute();
  await db.schema
    .createTable('bodies')
    .addColumn('hash', 'text', (c) => c.primaryKey())
    .addColumn('size', 'integer', (c) => c.notNull())
    .addColumn('bytes', 'blob', (c) => c.notNull())
    .execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  for (const table of ['findings', 'captures', 'sweeps', 'sites', 'bodies']) await db.schema.dropTable(table).execute();
}
