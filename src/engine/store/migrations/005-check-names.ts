import { sql, type Kysely } from 'kysely';

/** Ids of checks that changed, so that file, export and id agree: old and new. */
const RENAMED: readonly (readonly [string, string])[] = [
  ['blocking-third-party', 'third-party-blocking'],
  ['link-detour', 'link-redirected'],
];

/** Findings, mutes and limits name checks by their new ids. */
export async function up(db: Kysely<unknown>): Promise<void> {
  for (const [before, after] of RENAMED) await rename(db, before, after);
}

/** Back to the names before. */
export async function down(db: Kysely<unknown>): Promise<void> {
  for (const [before, after] of RENAMED) await rename(db, after, before);
}

async function rename(db: Kysely<unknown>, before: string, after: string): Promise<void> {
  await sql`update findings set "check" = ${after}, json = replace(json, ${`"check":"${before}"`}, ${`"check":"${after}"`})
    where "check" = ${before}`.execute(db);
  await sql`update mutes set "check" = ${after} where "check" = ${before}`.execute(db);
  await sql`update mutes set value = ${after} where scope = 'check' and value = ${before}`.execute(db);
  await sql`update sites set limits = replace(limits, ${`"${before}.`}, ${`"${after}.`}) where limits is not null`.execute(
    db,
  );
}
