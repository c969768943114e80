import zlib from 'node:zlib';
import { unzipSync } from 'fflate';
import readXlsxFile from 'read-excel-file/node';
import { InputError } from '../../core/capture/errors';
import { decodeList, readTable, type RawTable } from '../../core/site/lists/table';
import { readSitemap } from '../../core/site/sitemap';

/** Largest list, unpacked. */
export const MAX_LIST_BYTES = 200 * 1024 * 1024;

/**
 * The tables of a list file, told by content: xlsx (ECMA-376), zip of tables, gzip, XML sitemap or feed, delimited or
 * plain text in UTF-8, UTF-16 or Windows-1252.
 * @param name for messages
 * @throws InputError for what is empty, too large or no list
 */
export async function readListFile(bytes: Uint8Array, name: string): Promise<RawTable[]> {
  if (bytes.length === 0) throw new InputError('The file is empty.', name, 'Export the list again.');
  if (bytes.length > MAX_LIST_BYTES) throw tooLarge(name);
  if (bytes[0] === 0x1f && bytes[1] === 0x8b) return readListFile(gunzip(bytes, name), name);
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) return readPacked(bytes, name);
  const text = decodeList(bytes);
  if (text.slice(0, 4000).includes('\u0000') || /^(%PDF|\x89PNG|\xFF\xD8|GIF8)/.test(text))
    throw new InputError('This is no list of addresses.', name, 'Give CSV, TSV, XLSX, an XML sitemap or plain text.');
  if (/^\s*(\uFEFF)?\s*<[?!a-z]/i.test(text)) return [readXml(text, name)];
  return [readTable(text)];
}

function readXml(text: string, name: string): RawTable {
  const { pages, fault } = readSitemap(text, 'https://list.invalid/');
  if (pages.length === 0)
    throw new InputError(
      `The XML names no address${fault ? ` (${fault})` : ''}.`,
      name,
      'Give a sitemap, not an index of sitemaps or a web page.',
    );
  return { name: '', rows: pages.map((p) => [p.url]) };
}

async function readPacked(bytes: Uint8Array, name: string): Promise<RawTable[]> {
  let files: Record<string, Uint8Array>;
  let size = 0;
  let workbook = false;
  try {
    files = unzipSync(bytes, {
      filter: (file) => {
        workbook ||= file.name === '[Content_Types].xml';
        size += file.originalSize;
        if (size > MAX_LIST_BYTES) throw tooLarge(name);
        return /\.(csv|tsv|txt|xml)$/i.test(file.name) && !/(^|\/)(__MACOSX|\.)/.test(file.name);
      },
    });
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError('The zip or XLSX file is damaged.', name, 'Export it again.');
  }
  if (!workbook) {
    const tables = await Promise.all(
      Object.entries(files).map(async ([inner, content]) =>
        (await readListFile(content, `${name}: ${inner}`).catch(() => [])).map((t) => ({ ...t, name: inner })),
      ),
    );
    if (tables.flat().length === 0)
      throw new InputError('The zip holds no list of addresses.', name, 'Put CSV, TSV, XML or text files into it.');
    return tables.flat();
  }
  try {
    const sheets = await readXlsxFile(Buffer.from(bytes));
    return sheets.map(({ sheet, data }) => ({ name: sheet, rows: data.map((row) => row.map(cellText)) }));
  } catch {
    throw new InputError('The XLSX file cannot be read.', name, 'Save it again as XLSX, or export it as CSV.');
  }
}

function cellText(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) return value.toISOString().slice(0, 10);
  return typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? String(value) : '';
}

function gunzip(bytes: Uint8Array, name: string): Uint8Array {
  try {
    return zlib.gunzipSync(bytes, { maxOutputLength: MAX_LIST_BYTES });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE') throw tooLarge(name);
    throw new InputError('The gzip file is damaged.', name, 'Export it again.');
  }
}

const tooLarge = (name: string) =>
  new InputError('The list is larger than 200 MB.', name, 'Split it into several files.');
