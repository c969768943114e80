import type { Kysely } from 'kysely';

/** Plans of a site, and visitors that users have made up. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .createTable('plans')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('visitor', 'text', (c) => c.notNull())
    .addColumn('scope', 'text', (c) => c.notNull())
    .addColumn('fixes', 'text', (c) => c.notNull())
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addColumn('updated_at', 'text', (c) => c.notNull())
    .addUniqueConstraint('plans_once', ['site_id', 'name'])
    .execute();
  await db.schema
    .createTable('visitors')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('name', 'text', (c) => c.notNull().unique())
    .addColumn('spec', 'text', (c) => c.notNull())
    .execute();
}

/** Back to the form before. */
export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.dropTable('visitors').execute();
  await db.schema.dropTable('plans').execute();
}
