import type { Kysely } from 'kysely';

/** Files of field data. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .createTable('field_files')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('added_at', 'text', (c) => c.notNull())
    .addColumn('read_as', 'text', (c) => c.notNull())
    .addColumn('unread', 'text', (c) => c.notNull())
    .addColumn('count', 'integer', (c) => c.notNull())
    .addColumn('rows', 'blob', (c) => c.notNull())
    .addUniqueConstraint('field_files_name', ['site_id', 'name'])
    .execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.dropTable('field_files').execute();
}
