/** How the numbers of a column are written. */
export interface NumberForm {
  readonly decimal: ',' | '.';
}

/**
 * How a column writes its numbers, told from all of its cells: `1.234,5` and `12,3 %` have a decimal comma, `1,234.5` a
 * decimal point. A single separator before three digits (`1.234`) parts thousands where `whole` numbers are expected.
 */
export function numberForm(cells: readonly string[], whole: boolean): NumberForm {
  let comma = 0;
  let point = 0;
  for (const cell of cells) {
    const text = cell.replace(/[\s\u00A0\u202F%'’]/g, '');
    const last = Math.max(text.lastIndexOf(','), text.lastIndexOf('.'));
    if (last < 0) continue;
    const mark = text[last];
    const digits = text.length - last - 1;
    const both = text.includes(',') && text.includes('.');
    const several = text.split(mark ?? '').length > 2;
    if (both) mark === ',' ? comma++ : point++;
    else if (several) mark === ',' ? point++ : comma++;
    else if (digits !== 3 || !whole) mark === ',' ? comma++ : point++;
    else mark === ',' ? point++ : comma++;
  }
  return { decimal: comma > point ? ',' : '.' };
}

/** The number in a cell; undefined when there is none. Percent signs and spaces are left out. */
export function readNumber(cell: string, form: NumberForm): number | undefined {
  const text = cell.replace(/[\s\u00A0\u202F%'’]/g, '');
  if (!/^[-+]?[\d.,]*\d[\d.,]*$/.test(text)) return undefined;
  const plain = form.decimal === ',' ? text.replaceAll('.', '').replace(',', '.') : text.replaceAll(',', '');
  const value = Number(plain);
  return Number.isFinite(value) ? value : undefined;
}

/** In which order a column writes day, month and year. */
export type DateOrder = 'ymd' | 'dmy' | 'mdy';

/** The order of a column's dates: decided by a part over 12, else by the separator. */
export function dateOrder(cells: readonly string[]): DateOrder {
  let dots = false;
  for (const cell of cells) {
    const m = /^\s*(\d{1,2})([./-])(\d{1,2})\2(\d{2,4})/.exec(cell);
    if (!m) continue;
    if (Number(m[1]) > 12) return 'dmy';
    if (Number(m[3]) > 12) return 'mdy';
    dots ||= m[2] === '.';
  }
  return dots ? 'dmy' : cells.some((c) => /^\s*\d{1,2}\//.test(c)) ? 'mdy' : 'dmy';
}

const MONTHS = 'jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec'.split('|');

/** A date as YYYY-MM-DD; undefined for what is none. */
export function readDate(cell: string, order: DateOrder): string | undefined {
  const text = cell.trim();
  const iso = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?!\d)/.exec(text);
  if (iso) return day(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const compact = /^(\d{4})(\d{2})(\d{2})$/.exec(text);
  if (compact) return day(Number(compact[1]), Number(compact[2]), Number(compact[3]));
  const parts = /^(\d{1,2})([./-])(\d{1,2})\2(\d{2}|\d{4})(?!\d)/.exec(text);
  if (parts) {
    const [a, b, y] = [Number(parts[1]), Number(parts[3]), Number(parts[4])];
    const year = y < 100 ? 2000 + y : y;
    return order === 'mdy' ? day(year, a, b) : day(year, b, a);
  }
  const named = /^(?:(\d{1,2})\.?\s+)?([a-z]{3})[a-z]*\.?\s+(?:(\d{1,2}),?\s+)?(\d{4})/i.exec(text);
  const month = named ? MONTHS.indexOf((named[2] ?? '').toLowerCase()) + 1 : 0;
  return named && month > 0 ? day(Number(named[4]), month, Number(named[1] ?? named[3] ?? 1)) : undefined;
}

function day(year: number, month: number, date: number): string | undefined {
  const at = new Date(Date.UTC(year, month - 1, date));
  if (at.getUTCMonth() !== month - 1 || at.getUTCDate() !== date) return undefined;
  return at.toISOString().slice(0, 10);
}
