import { sql, type RawBuilder } from 'kysely';

/**
 * Many rows as one parameter: a SELECT that unpacks a JSON array of arrays into columns. Statements of ten
 * thousand parameters cost more to compile than to run.
 * @example sql`insert into t (a, b) ${rowsAsJson([[1, 'x'], [2, 'y']], ['a', 'b'])}`
 */
export function rowsAsJson(
  rows: readonly (readonly (string | number | null | undefined)[])[],
  columns: readonly string[],
): RawBuilder<unknown> {
  const picks = columns.map((name, i) => sql`json_extract(value, ${sql.lit(`$[${i}]`)}) as ${sql.ref(name)}`);
  return sql`select ${sql.join(picks)} from json_each(${JSON.stringify(rows)}) where true`;
}
