import { sql, type Kysely } from 'kysely';

/** Probes and proofs that recorders elsewhere do for a job. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .createTable('remote_tasks')
    .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
    .addColumn('job_id', 'integer', (c) => c.notNull().references('jobs.id').onDelete('cascade'))
    .addColumn('kind', 'text', (c) => c.notNull())
    .addColumn('title', 'text', (c) => c.notNull())
    .addColumn('host', 'text')
    .addColumn('sent_at', 'integer')
    .addColumn('fault', 'text')
    .addUniqueConstraint('remote_tasks_title', ['job_id', 'kind', 'title'])
    .execute();
  await sql`create index remote_tasks_sent on remote_tasks (host) where sent_at is not null`.execute(db);
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.dropTable('remote_tasks').execute();
}
