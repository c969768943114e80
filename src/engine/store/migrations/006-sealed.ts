import type { Kysely } from 'kysely';

/** Addresses with a secret in them are shown without it; the whole one is kept encrypted until it is no longer needed. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('pages').addColumn('sealed', 'text').execute();
  await db.schema.alterTable('recordings').addColumn('sealed', 'text').execute();
}

export async function down(db: Kysely<unknown>): Promise<void> {
  await db.schema.alterTable('pages').dropColumn('sealed').execute();
  await db.schema.alterTable('recordings').dropColumn('sealed').execute();
}
