import { InputError } from '../../capture/errors';
import type { RawTable } from '../../site/lists/table';
import { looksLikeAddress } from '../../site/urlList';
import type { ChosenTarget } from './plan';

const FROM = /^(from|old( url| address)?|missing( page| url)?|address|url|page|source|von|alt)$/i;
const TO = /^(to|new( url| address)?|target( url)?|nearest( page)?|destination|redirect to|nach|neu|ziel)$/i;

/**
 * Missing pages with the pages chosen for them: a table with a column for the old and one for the new address, or the
 * table of fates, of which rows without a fault are left out.
 * @throws InputError when it has no such columns
 */
export function readChosenTargets(table: RawTable, file: string): ChosenTarget[] {
  const { rows } = table;
  const head = rows[0] ?? [];
  const named = !head.some((c) => looksLikeAddress(c));
  const column = (names: RegExp) => (named ? head.findIndex((c) => names.test(c.trim())) : -1);
  const from = named ? column(FROM) : 0;
  const to = named ? column(TO) : 1;
  if (from < 0 || to < 0 || (!named && head.length < 2))
    throw new InputError(
      'The list has no columns for old and new addresses.',
      file,
      'Give two columns, from and to; an empty "to" leaves a page missing, "gone" answers 410.',
    );
  const fate = column(/^fate$/i);
  return (named ? rows.slice(1) : rows).flatMap((row) => {
    const old = row[from]?.trim() ?? '';
    const faulty = fate < 0 || /^(missing|path lost)$/i.test(row[fate]?.trim() ?? '');
    return looksLikeAddress(old) && faulty ? [{ from: old, to: row[to]?.trim() ?? '' }] : [];
  });
}
