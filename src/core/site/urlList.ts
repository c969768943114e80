import Papa from 'papaparse';
import { resolveUrl } from '../capture/url';

/** A list of addresses as it came: plain lines, or a table whose column has to be picked. */
export interface UrlList {
  /** Names of the columns; one for a plain list. */
  readonly columns: readonly string[];
  /** The column that holds most addresses. */
  readonly column: number;
  readonly rows: readonly (readonly string[])[];
}

/**
 * Reads a pasted or uploaded list (text/plain with one address a line, or CSV as RFC 4180 with comma, semicolon
 * or tab). A first row without any address is taken for the names of the columns.
 */
export function readUrlList(text: string): UrlList {
  const clean = text.replace(/^\uFEFF/, '');
  const first = clean.split(/\r?\n/).find((l) => l.trim()) ?? '';
  const delimiter = ['\t', ';', ','].find((d) => outsideUrl(first).includes(d));
  if (!delimiter) {
    const rows = clean.split(/\r?\n/).flatMap((l) => (l.trim() ? [[l.trim()]] : []));
    const named = rows[0]?.[0] !== undefined && !looksLikeAddress(rows[0][0]) && rows.length > 1;
    return { columns: [named ? (rows[0]?.[0] ?? '') : 'address'], column: 0, rows: named ? rows.slice(1) : rows };
  }
  const rows = Papa.parse<string[]>(clean, { delimiter, skipEmptyLines: 'greedy' }).data;
  const named = rows.length > 1 && !rows[0]?.some(looksLikeAddress);
  const width = Math.max(0, ...rows.map((r) => r.length));
  const columns = Array.from({ length: width }, (_, i) => (named && rows[0]?.[i]?.trim()) || `column ${i + 1}`);
  const body = named ? rows.slice(1) : rows;
  const hits = columns.map((_, i) => body.slice(0, 200).filter((r) => looksLikeAddress(r[i] ?? '')).length);
  return { columns, column: Math.max(0, hits.indexOf(Math.max(0, ...hits))), rows: body };
}

/** Addresses of one column, made absolute, each once; and how many entries were none. */
export function urlsOf(list: UrlList, column: number, base: string): { urls: string[]; notAddresses: number } {
  const urls = new Set<string>();
  let notAddresses = 0;
  for (const row of list.rows) {
    const text = (row[column] ?? '').trim();
    if (!text) continue;
    if (!looksLikeAddress(text)) {
      notAddresses++;
      continue;
    }
    const bareHost = /^[a-z0-9-]+(\.[a-z0-9-]+)+([/?:]|$)/i.test(text) && !/^https?:/i.test(text);
    const url = resolveUrl(bareHost ? `https://${text}` : text, base);
    if (url === undefined) notAddresses++;
    else urls.add(url);
  }
  return { urls: [...urls], notAddresses };
}

/** True for an absolute web address, a path, or a host with or without a path. */
export function looksLikeAddress(text: string): boolean {
  const t = text.trim();
  if (/^https?:\/\/[^\s]+$/i.test(t) || /^\/[^\s]*$/.test(t)) return true;
  // A number like 7.4 is no host: the last label of a name has a letter, an address has four numbers.
  return (
    /^([a-z0-9-]+\.)+(?=[a-z0-9-]*[a-z])[a-z0-9-]{2,}(\/[^\s]*)?$/i.test(t) ||
    /^\d{1,3}(\.\d{1,3}){3}(\/[^\s]*)?$/.test(t)
  );
}

/** Commas and semicolons inside an address do not part columns. */
function outsideUrl(line: string): string {
  return /^\s*https?:\/\/[^\s"]*\s*$/i.test(line) && !/[;,\t]\s*[a-z0-9"]+\s*$/i.test(line) ? '' : line;
}
