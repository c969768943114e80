import Papa from 'papaparse';
import { looksLikeAddress } from '../urlList';

/** A table as a file holds it, before anybody knows what its columns mean. */
export interface RawTable {
  /** Of a sheet; empty for a text file. */
  readonly name: string;
  readonly rows: readonly (readonly string[])[];
}

/** The text of a list: byte order marks (UTF-8, UTF-16), UTF-16 without one, and Windows-1252 where it is no UTF-8. */
export function decodeList(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  const head = bytes.subarray(0, 1000);
  const zeros = [0, 1].map((odd) => head.filter((b, i) => b === 0 && i % 2 === odd).length);
  if ((zeros[1] ?? 0) > head.length / 4) return new TextDecoder('utf-16le').decode(bytes);
  if ((zeros[0] ?? 0) > head.length / 4) return new TextDecoder('utf-16be').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

/**
 * Rows of a text: delimited (RFC 4180 with comma, semicolon, tab or bar, quoted line breaks kept) or one entry a line.
 */
export function readTable(text: string): RawTable {
  const clean = text.replace(/^\uFEFF/, '').replace(/^sep=.\r?\n/i, '');
  const delimiter = delimiterOf(clean);
  if (delimiter === undefined)
    return { name: '', rows: clean.split(/\r\n|\n|\r/).flatMap((l) => (l.trim() ? [[l.trim()]] : [])) };
  return { name: '', rows: Papa.parse<string[]>(clean, { delimiter, skipEmptyLines: 'greedy' }).data };
}

/** The delimiter of a text; undefined for one entry a line, whose addresses may hold any of them. */
function delimiterOf(text: string): string | undefined {
  let best: { delimiter: string; score: number } | undefined;
  for (const delimiter of ['\t', ';', ',', '|']) {
    if (!text.includes(delimiter)) continue;
    const { data } = Papa.parse<string[]>(text, { delimiter, preview: 60, skipEmptyLines: 'greedy' });
    const widths = new Map<number, number>();
    for (const row of data) if (row.length > 1) widths.set(row.length, (widths.get(row.length) ?? 0) + 1);
    const [width, rows] = [...widths].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0] ?? [0, 0];
    // Tools put lines of their own above a table; within it rows are alike.
    const start = data.findIndex((row) => row.length === width);
    if (start < 0 || rows < (data.length - start) * 0.8) continue;
    const whole = data.filter((row) => row.length === width);
    // What comes after an address in a plain list is a piece of it; in a table it is a value, or there is a heading.
    const heading = whole[0] !== undefined && !whole[0].some((c) => looksLikeAddress(c)) && whole.length > 1;
    const values = whole.filter((row) => row.some((c, i) => i > 0 && /^\s*("|[-+]?[\d.,]+\s*%?\s*$|https?:)/i.test(c)));
    if (!heading && values.length < whole.length * 0.8) continue;
    const score = (rows / (data.length - start)) * Math.min(width, 6);
    if (!best || score > best.score) best = { delimiter, score };
  }
  return best?.delimiter;
}
