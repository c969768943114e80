import { sql, type Kysely } from 'kysely';

/** Recorders elsewhere: who they are, the tokens that they come with, and which recordings wait in the queue for them. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('recordings').addColumn('host', 'text').execute();
  await db.schema.alterTable('recordings').addColumn('sent_at', 'integer').execute();
  await sql`create index recordings_sent on recordings (host) where sent_at is not null`.execute(db);
  await db.schema
    .createTable('api_tokens')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('scope', 'text', (c) => c.notNull())
    .addColumn('hash', 'text', (c) => c.notNull().unique())
    .addColumn('account_id', 'integer')
    .addColumn('created_at', 'text', (c) => c.notNull())
    .addColumn('last_used', 'text')
    .execute();
  await db.schema
    .createTable('recorders')
    .addColumn('id', 'integer', (c) => c.primaryKey())
    .addColumn('token_id', 'integer', (c) => c.notNull().references('api_tokens.id').onDelete('cascade'))
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('facts', 'text', (c) => c.notNull())
    .addColumn('first_seen', 'integer', (c) => c.notNull())
    .addColumn('last_seen', 'integer', (c) => c.notNull())
    .addColumn('done', 'integer', (c) => c.notNull().defaultTo(0))
    .addColumn('failed', 'integer', (c) => c.notNull().defaultTo(0))
    .addUniqueConstraint('recorders_name', ['token_id', 'name'])
    .execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.dropTable('recorders').execute();
  await db.schema.dropTable('api_tokens').execute();
  await sql`drop index recordings_sent`.execute(db);
  await db.schema.alterTable('recordings').dropColumn('sent_at').execute();
  await db.schema.alterTable('recordings').dropColumn('host').execute();
}
