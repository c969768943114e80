import type { CreateTableBuilder, Kysely } from 'kysely';

const TABLES = [
  'shares',
  'app_settings',
  'deliveries',
  'notices',
  'page_visits',
  'watched_pages',
  'limit_results',
  'watch_limits',
  'schedules',
] as const;

/** Schedules, limits with what they came to, watched pages, notices with their deliveries, shared reports. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('sites').addColumn('notify', 'text').execute();
  await db.schema.alterTable('sites').addColumn('report_look', 'text').execute();
  const table = (name: string) =>
    db.schema.createTable(name).addColumn('id', 'integer', (c) => c.primaryKey()) as CreateTableBuilder<string, string>;
  const ofSite = (name: string) =>
    table(name).addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'));
  await ofSite('schedules')
    .addColumn('what', 'text', (c) => c.notNull())
    .addColumn('cron', 'text', (c) => c.notNull())
    .addColumn('zone', 'text', (c) => c.notNull())
    .addColumn('quiet', 'text')
    .addColumn('on', 'integer', (c) => c.notNull())
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addColumn('last_start', 'text')
    .addColumn('last_job', 'integer')
    .addColumn('last_error', 'text')
    .execute();
  await ofSite('watch_limits')
    .addColumn('content', 'text', (c) => c.notNull())
    .addColumn('created_at', 'text', (c) => c.notNull())
    .execute();
  await db.schema
    .createTable('limit_results')
    .addColumn('limit_id', 'integer', (c) => c.notNull().references('watch_limits.id').onDelete('cascade'))
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('judged_at', 'text', (c) => c.notNull())
    .addColumn('value', 'real', (c) => c.notNull())
    .addColumn('low', 'real')
    .addColumn('high', 'real')
    .addColumn('over', 'integer', (c) => c.notNull())
    .addColumn('broken', 'integer', (c) => c.notNull())
    .addColumn('broken_since', 'integer')
    .addPrimaryKeyConstraint('limit_results_key', ['limit_id', 'sweep_id'])
    .execute();
  await ofSite('watched_pages')
    .addColumn('url', 'text', (c) => c.notNull())
    .addColumn('mutings', 'text', (c) => c.notNull())
    .addColumn('learned', 'text', (c) => c.notNull())
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addUniqueConstraint('watched_pages_url', ['site_id', 'url'])
    .execute();
  await table('page_visits')
    .addColumn('watched_id', 'integer', (c) => c.notNull().references('watched_pages.id').onDelete('cascade'))
    .addColumn('seen_at', 'text', (c) => c.notNull())
    .addColumn('snapshot', 'blob')
    .addColumn('changes', 'text')
    .addColumn('error', 'text')
    .execute();
  await db.schema.createIndex('page_visits_of').on('page_visits').columns(['watched_id', 'id']).execute();
  await ofSite('notices')
    .addColumn('at', 'text', (c) => c.notNull())
    .addColumn('kind', 'text', (c) => c.notNull())
    .addColumn('key', 'text', (c) => c.notNull())
    .addColumn('title', 'text', (c) => c.notNull())
    .addColumn('lines', 'text', (c) => c.notNull())
    .addColumn('path', 'text', (c) => c.notNull())
    .addColumn('read_at', 'text')
    .addUniqueConstraint('notices_key', ['site_id', 'key'])
    .execute();
  await ofSite('deliveries')
    .addColumn('channel', 'text', (c) => c.notNull())
    .addColumn('content', 'text', (c) => c.notNull())
    .addColumn('state', 'text', (c) => c.notNull())
    .addColumn('tries', 'integer', (c) => c.notNull())
    .addColumn('next_at', 'integer', (c) => c.notNull())
    .addColumn('error', 'text')
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addColumn('ended_at', 'text')
    .execute();
  await db.schema
    .createTable('app_settings')
    .addColumn('name', 'text', (c) => c.primaryKey())
    .addColumn('value', 'text', (c) => c.notNull())
    .execute();
  await ofSite('shares')
    .addColumn('token_hash', 'text', (c) => c.notNull().unique())
    .addColumn('reader', 'text', (c) => c.notNull())
    .addColumn('visitor', 'text', (c) => c.notNull())
    .addColumn('sweep_id', 'integer', (c) => c.references('sweeps.id').onDelete('cascade'))
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addColumn('ends_at', 'text', (c) => c.notNull())
    .addColumn('revoked_at', 'text')
    .addColumn('opened', 'integer', (c) => c.notNull().defaultTo(0))
    .addColumn('last_opened', 'text')
    .execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  for (const name of TABLES) await db.schema.dropTable(name).execute();
  await db.schema.alterTable('sites').dropColumn('report_look').execute();
  await db.schema.alterTable('sites').dropColumn('notify').execute();
}
