import { sql, type Kysely } from 'kysely';

/** What changes figures of the sweep that a row belongs to. */
const CHANGES = [
  ['captures', 'insert', 'id = new.sweep_id'],
  ['captures', 'update of audit', 'id = new.sweep_id'],
  ['captures', 'delete', 'id = old.sweep_id'],
  ['mutes', 'insert', 'site_id = new.site_id'],
  ['mutes', 'delete', 'site_id = old.site_id'],
] as const;

const nameOf = (table: string, event: string) => `revise_${table}_${event.split(' ')[0]}`;

/**
 * Figures of a sweep are worked out once and kept with the revision of the sweep that they are of. Triggers count
 * revisions, so that no code path can forget to.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema
    .alterTable('sweeps')
    .addColumn('revision', 'integer', (c) => c.notNull().defaultTo(0))
    .execute();
  await db.schema
    .createTable('kept')
    .addColumn('sweep_id', 'integer', (c) => c.notNull().references('sweeps.id').onDelete('cascade'))
    .addColumn('name', 'text', (c) => c.notNull())
    .addColumn('revision', 'integer', (c) => c.notNull())
    .addColumn('value', 'blob', (c) => c.notNull())
    .addPrimaryKeyConstraint('kept_key', ['sweep_id', 'name'])
    .execute();
  for (const [table, event, which] of CHANGES)
    await sql
      .raw(
        `create trigger ${nameOf(table, event)} after ${event} on ${table} begin
           update sweeps set revision = revision + 1 where ${which};
         end`,
      )
      .execute(db);
}

export async function down(db: Kysely<unknown>): Promise<void> {
  for (const [table, event] of CHANGES) await sql.raw(`drop trigger ${nameOf(table, event)}`).execute(db);
  await db.schema.dropTable('kept').execute();
  await db.schema.alterTable('sweeps').dropColumn('revision').execute();
}
