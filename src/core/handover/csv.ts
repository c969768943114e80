import Papa from 'papaparse';

/**
 * A CSV document (RFC 4180) with a header row. Cells that a spreadsheet would take for a formula get a leading
 * apostrophe.
 */
export function toCsv(header: readonly string[], rows: readonly (readonly (string | number | undefined)[])[]): string {
  const data = rows.map((row) => row.map((cell) => cell ?? ''));
  return (
    Papa.unparse({ fields: [...header], data }, { newline: '\r\n', escapeFormulae: /^[=+\-@\t\r](?!\d+(\.\d+)?$)/ }) +
    '\r\n'
  );
}
