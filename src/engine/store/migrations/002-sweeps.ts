import { sql, type Kysely } from 'kysely';

/** Sweeps that are more than a day, pages with their facts, links, mentions, jobs. Foreign keys are off meanwhile. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('sites').addColumn('settings', 'text').execute();
  await db.schema
    .createTable('sweeps_new')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('day', 'text', (c) => c.notNull())
    .addColumn('started_at', 'text')
    .addColumn('ended_at', 'text')
    .addColumn('settings', 'text')
    .execute();
  await sql`insert into sweeps_new (id, site_id, day) select id, site_id, day from sweeps`.execute(db);
  await db.schema.dropTable('sweeps').execute();
  await db.schema.alterTable('sweeps_new').renameTo('sweeps').execute();
  await db.schema.createIndex('sweeps_by_site').on('sweeps').columns(['site_id', 'day']).execute();

  await db.schema
    .createTable('pages')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('url', 'text', (c) => c.notNull())
    .addColumn('state', 'text', (c) => c.notNull())
    .addColumn('why', 'text')
    .addColumn('origin', 'text', (c) => c.notNull())
    .addColumn('level', 'integer', (c) => c.notNull())
    .addColumn('depth', 'integer')
    .addColumn('in_sitemap', 'text')
    .addColumn('folder', 'text', (c) => c.notNull())
    .addColumn('status', 'integer')
    .addColumn('type', 'text')
    .addColumn('transfer_bytes', 'integer')
    .addColumn('decoded_bytes', 'integer')
    .addColumn('encoding', 'text')
    .addColumn('protocol', 'text')
    .addColumn('answer_ms', 'real')
    .addColumn('total_ms', 'real')
    .addColumn('fetched_at', 'text')
    .addColumn('redirect_to', 'text')
    .addColumn('redirect_kind', 'text')
    .addColumn('outside', 'text')
    .addColumn('hops', 'text')
    .addColumn('hop_count', 'integer', (c) => c.notNull().defaultTo(0))
    .addColumn('final_url', 'text')
    .addColumn('final_status', 'integer')
    .addColumn('title', 'text')
    .addColumn('language', 'text')
    .addColumn('canonical', 'text')
    .addColumn('robots', 'text')
    .addColumn('base', 'text')
    .addColumn('links_out', 'integer')
    .addColumn('links_in', 'integer')
    .addColumn('links_missing', 'integer')
    .addColumn('links_redirected', 'integer')
    .addColumn('mentions', 'integer')
    .addColumn('elements', 'integer')
    .addColumn('fingerprint', 'text')
    .addColumn('template', 'text')
    .addColumn('text_hash', 'text')
    .addColumn('body_hash', 'text')
    .addColumn('details', 'text')
    .addUniqueConstraint('pages_once', ['sweep_id', 'url'])
    .execute();
  await db.schema.createIndex('captures_by_page').on('captures').columns(['sweep_id', 'page', 'device']).execute();
  await db.schema.createIndex('pages_by_state').on('pages').columns(['sweep_id', 'state', 'level']).execute();
  await db.schema
    .createTable('links')
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('from_id', 'integer', (c) => c.notNull())
    .addColumn('to_id', 'integer')
    .addColumn('url', 'text')
    .addColumn('tag', 'text', (c) => c.notNull())
    .addColumn('attribute', 'text', (c) => c.notNull())
    .addColumn('line', 'integer', (c) => c.notNull())
    .addColumn('col', 'integer', (c) => c.notNull())
    .addColumn('rel', 'text', (c) => c.notNull())
    .addColumn('text', 'text', (c) => c.notNull())
    .execute();
  // Two are enough: rows come in the order of the first one, which also finds all of a sweep.
  await db.schema.createIndex('links_from').on('links').columns(['sweep_id', 'from_id', 'to_id']).execute();
  await db.schema.createIndex('links_to').on('links').columns(['to_id']).execute();
  await db.schema
    .createTable('mentions')
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('page_id', 'integer', (c) => c.notNull())
    .addColumn('url', 'text', (c) => c.notNull())
    .addColumn('own', 'integer', (c) => c.notNull())
    .addColumn('tag', 'text', (c) => c.notNull())
    .addColumn('attribute', 'text', (c) => c.notNull())
    .addColumn('use', 'text', (c) => c.notNull())
    .addColumn('kind', 'text')
    .addColumn('line', 'integer', (c) => c.notNull())
    .addColumn('col', 'integer', (c) => c.notNull())
    .addColumn('source', 'text', (c) => c.notNull())
    .execute();
  await db.schema.createIndex('mentions_of_page').on('mentions').columns(['page_id']).execute();
  await db.schema.createIndex('mentions_of_sweep').on('mentions').columns(['sweep_id', 'url']).execute();
  await db.schema
    .createTable('fingerprints')
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('fingerprint', 'text', (c) => c.notNull())
    .addColumn('features', 'text', (c) => c.notNull())
    .addPrimaryKeyConstraint('fingerprints_pk', ['sweep_id', 'fingerprint'])
    .execute();
  await db.schema
    .createTable('templates')
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('template', 'text', (c) => c.notNull())
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('pages', 'integer', (c) => c.notNull())
    .addPrimaryKeyConstraint('templates_pk', ['sweep_id', 'template'])
    .execute();
  await db.schema
    .createTable('sweep_notes')
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('kind', 'text', (c) => c.notNull())
    .addColumn('about', 'text', (c) => c.notNull())
    .addColumn('count', 'integer', (c) => c.notNull())
    .addColumn('example', 'text', (c) => c.notNull())
    .addColumn('source', 'text')
    .addColumn('what', 'text', (c) => c.notNull())
    .addPrimaryKeyConstraint('sweep_notes_pk', ['sweep_id', 'kind', 'about'])
    .execute();
  await db.schema
    .createTable('recordings')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('job_id', 'integer', (c) => c.notNull().references('jobs.id').onDelete('cascade'))
    .addColumn('url', 'text', (c) => c.notNull())
    .addColumn('device', 'text', (c) => c.notNull())
    .addColumn('why', 'text', (c) => c.notNull())
    .addColumn('state', 'text', (c) => c.notNull())
    .addColumn('capture_id', 'integer')
    .addColumn('error', 'text')
    .addUniqueConstraint('recordings_once', ['job_id', 'url', 'device'])
    .execute();
  await db.schema
    .createTable('jobs')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('kind', 'text', (c) => c.notNull())
    .addColumn('site_id', 'integer', (c) => c.references('sites.id').onDelete('cascade'))
    .addColumn('sweep_id', 'integer', (c) => c.references('sweeps.id').onDelete('cascade'))
    .addColumn('title', 'text', (c) => c.notNull())
    .addColumn('state', 'text', (c) => c.notNull())
    .addColumn('wanted', 'text')
    .addColumn('phase', 'text')
    .addColumn('input', 'text', (c) => c.notNull())
    .addColumn('progress', 'text')
    .addColumn('error', 'text')
    .addColumn('result', 'text')
    .addColumn('owner', 'text')
    .addColumn('beat_at', 'integer')
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addColumn('started_at', 'text')
    .addColumn('ended_at', 'text')
    .execute();
  await db.schema.createIndex('jobs_by_state').on('jobs').columns(['state']).execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  for (const table of ['recordings', 'jobs', 'sweep_notes', 'templates', 'fingerprints', 'mentions', 'links', 'pages'])
    await db.schema.dropTable(table).execute();
  await db.schema.dropIndex('captures_by_page').execute();
  await db.schema.alterTable('sites').dropColumn('settings').execute();
}
