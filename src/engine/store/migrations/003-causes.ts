import { sql, type Kysely } from 'kysely';

/** Findings know their cause, folder and host; a site has limits of its own and mutes. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('sites').addColumn('limits', 'text').execute();
  for (const name of ['cause', 'folder', 'host'])
    await db.schema
      .alterTable('findings')
      .addColumn(name, 'text', (c) => c.notNull().defaultTo(''))
      .execute();
  // What was examined before had one cause for each check and target.
  await sql`update findings set cause = "check" || '|' || target where cause = ''`.execute(db);
  await db.schema.createIndex('findings_by_cause').on('findings').columns(['cause']).execute();
  await db.schema
    .createTable('mutes')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('scope', 'text', (c) => c.notNull())
    .addColumn('value', 'text', (c) => c.notNull())
    .addColumn('check', 'text', (c) => c.notNull())
    .addColumn('title', 'text', (c) => c.notNull())
    .addColumn('reason', 'text', (c) => c.notNull())
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addUniqueConstraint('mutes_once', ['site_id', 'scope', 'value'])
    .execute();
}

/** Back to the form before. */
export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.dropTable('mutes').execute();
  await db.schema.dropIndex('findings_by_cause').execute();
  for (const name of ['cause', 'folder', 'host']) await db.schema.alterTable('findings').dropColumn(name).execute();
  await db.schema.alterTable('sites').dropColumn('limits').execute();
}
