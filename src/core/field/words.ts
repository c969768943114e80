import { FIELD_NAMES, ratingOf, type FieldMetric, type FieldRow } from './fieldData';

/** "October 2026" for YYYY-MM. */
export const monthText = (month: string): string =>
  new Date(`${month}-15T00:00:00Z`).toLocaleDateString('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' });

/** "3.4 s", "240 ms", "0.12". */
export function fieldValue(metric: FieldMetric, value: number): string {
  if (metric === 'cls') return value.toFixed(2);
  return value < 1000 ? `${Math.round(value)} ms` : `${(value / 1000).toFixed(1)} s`;
}

/** Whose, of when and of how many visits a row is: "to this page, phone, October 2026, 1,240 visits". */
export function fieldSource(row: FieldRow): string {
  return [
    row.of === 'page' ? 'to this page' : 'to the whole origin',
    row.device === 'all' ? 'all devices' : row.device,
    row.month && monthText(row.month),
    row.visits !== undefined && `${row.visits.toLocaleString('en-GB')} ${row.visits === 1 ? 'visit' : 'visits'}`,
  ]
    .filter(Boolean)
    .join(', ');
}

/** A row in one sentence, with those of the metrics that it has; undefined where it has none of them. */
export function fieldSentence(row: FieldRow, metrics: readonly FieldMetric[] = ['lcpMs', 'fcpMs']): string | undefined {
  const parts = metrics.flatMap((m) => {
    const value = row.p75[m];
    return value === undefined ? [] : [`${FIELD_NAMES[m]} ${fieldValue(m, value)}, ${ratingOf(m, value)}`];
  });
  return parts.length === 0 ? undefined : `Real visits ${fieldSource(row)}, p75: ${parts.join('; ')}.`;
}
