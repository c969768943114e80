/**
 * A CSV document (RFC 4180) with a header row. Cells that a spreadsheet would take for a formula
 * get a leading apostrophe.
 */
export function toCsv(header: readonly string[], rows: readonly (readonly (string | number | undefined)[])[]): string {
  return [header, ...rows].map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n';
}

function cell(value: string | number | undefined): string {
  if (value === undefined) return '';
  if (typeof value === 'number') return String(value);
  const safe = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
  return /[",\r\n]/.test(safe) ? `"${safe.replace(/"/g, '""')}"` : safe;
}
