import type { Kysely } from 'kysely';

/** Accounts with their roles, sessions, and who changed what. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .createTable('accounts')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('name', 'text', (c) => c.notNull().unique())
    .addColumn('password', 'text')
    .addColumn('role', 'text')
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addColumn('disabled_at', 'text')
    .addColumn('last_login', 'text')
    .execute();
  await db.schema
    .createTable('account_sites')
    .addColumn('account_id', 'integer', (c) => c.notNull().references('accounts.id').onDelete('cascade'))
    .addColumn('site_id', 'integer', (c) => c.notNull().references('sites.id').onDelete('cascade'))
    .addColumn('role', 'text', (c) => c.notNull())
    .addPrimaryKeyConstraint('account_sites_key', ['account_id', 'site_id'])
    .execute();
  await db.schema
    .createTable('sessions')
    .addColumn('hash', 'text', (c) => c.primaryKey())
    .addColumn('account_id', 'integer', (c) => c.notNull().references('accounts.id').onDelete('cascade'))
    .addColumn('created_at', 'integer', (c) => c.notNull())
    .addColumn('last_seen', 'integer', (c) => c.notNull())
    .execute();
  await db.schema
    .createTable('audit_log')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('at', 'text', (c) => c.notNull())
    .addColumn('who', 'text', (c) => c.notNull())
    .addColumn('says', 'text', (c) => c.notNull())
    .addColumn('method', 'text', (c) => c.notNull())
    .addColumn('path', 'text', (c) => c.notNull())
    .addColumn('site_id', 'integer')
    .addColumn('address', 'text', (c) => c.notNull())
    .execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  for (const table of ['audit_log', 'sessions', 'account_sites', 'accounts'])
    await db.schema.dropTable(table).execute();
}
