import type { Kysely } from 'kysely';

const TABLES = ['probes', 'lists', 'list_rows', 'list_fates', 'move_steps'] as const;

/** Probes of entrances, lists from elsewhere with the fate of each address, and the steps of a move to https. */
export async function up(db: Kysely<unknown>): Promise<void> {
  // Clicks of a page by the latest search export; null where the site has none.
  await db.schema.alterTable('pages').addColumn('clicks', 'integer').execute();
  await db.schema
    .createTable('probes')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('sweep_id', 'integer', (c) => c.references('sweeps.id').onDelete('set null'))
    .addColumn('asked_at', 'text', (c) => c.notNull())
    .addColumn('report', 'blob', (c) => c.notNull())
    .execute();
  await db.schema.createIndex('probes_of_site').on('probes').columns(['site_id', 'id']).execute();
  await db.schema
    .createTable('lists')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('kind', 'text', (c) => c.notNull())
    .addColumn('columns', 'text', (c) => c.notNull())
    .addColumn('roles', 'text', (c) => c.notNull())
    .addColumn('unread', 'text', (c) => c.notNull())
    .addColumn('from_day', 'text')
    .addColumn('to_day', 'text')
    .addColumn('added_at', 'text', (c) => c.notNull())
    .addColumn('asked_at', 'text')
    .execute();
  await db.schema
    .createTable('list_rows')
    .addColumn('list_id', 'integer', (c) => c.notNull().references('lists.id').onDelete('cascade'))
    .addColumn('address', 'text', (c) => c.notNull())
    .addColumn('clicks', 'real')
    .addColumn('impressions', 'real')
    .addColumn('position', 'real')
    .addColumn('date', 'text')
    .addColumn('title', 'text')
    .addColumn('state', 'text')
    .addColumn('source', 'text')
    .execute();
  await db.schema.createIndex('rows_of_list').on('list_rows').columns(['list_id', 'address']).execute();
  await db.schema
    .createTable('list_fates')
    .addColumn('list_id', 'integer', (c) => c.notNull().references('lists.id').onDelete('cascade'))
    .addColumn('address', 'text', (c) => c.notNull())
    .addColumn('fate', 'text', (c) => c.notNull())
    .addColumn('place', 'integer', (c) => c.notNull())
    .addColumn('says', 'text', (c) => c.notNull())
    .addColumn('hops', 'text', (c) => c.notNull())
    .addColumn('end_url', 'text')
    .addColumn('end_status', 'integer')
    .addColumn('nearest', 'text')
    .addColumn('nearest_why', 'text')
    .addColumn('clicks', 'real')
    .addColumn('impressions', 'real')
    .addColumn('position', 'real')
    .addColumn('title', 'text')
    .addColumn('state', 'text')
    .addColumn('rows', 'integer', (c) => c.notNull())
    .execute();
  await db.schema.createIndex('fates_of_list').on('list_fates').columns(['list_id', 'place', 'clicks']).execute();
  await db.schema
    .createTable('move_steps')
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('step', 'text', (c) => c.notNull())
    .addColumn('state', 'text', (c) => c.notNull())
    .addColumn('owner', 'text', (c) => c.notNull())
    .addColumn('due', 'text')
    .addColumn('note', 'text', (c) => c.notNull())
    .addPrimaryKeyConstraint('move_steps_key', ['site_id', 'step'])
    .execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('pages').dropColumn('clicks').execute();
  for (const table of [...TABLES].reverse()) await db.schema.dropTable(table).execute();
}
