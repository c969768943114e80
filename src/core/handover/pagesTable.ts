import { toCsv } from './csv';

/** The columns that a table of pages may have: key of the row, heading. */
export const PAGE_COLUMNS = {
  url: 'address',
  title: 'title',
  state: 'state',
  why: 'why',
  status: 'status',
  finalUrl: 'final address',
  finalStatus: 'final status',
  hopCount: 'redirects',
  type: 'content type',
  transferBytes: 'bytes transferred',
  decodedBytes: 'bytes decoded',
  encoding: 'content coding',
  protocol: 'protocol',
  answerMs: 'answer time (ms)',
  depth: 'depth',
  linksIn: 'links in',
  linksOut: 'links out',
  linksMissing: 'links to missing pages',
  linksRedirected: 'links through redirects',
  mentions: 'http:// URLs',
  canonical: 'canonical',
  robots: 'robots',
  language: 'language',
  inSitemap: 'in sitemap',
  folder: 'folder',
  template: 'template',
  origin: 'found by',
  elements: 'elements',
  textHash: 'text hash',
} as const;

export type PageColumn = keyof typeof PAGE_COLUMNS;

type PageCells = Partial<Record<PageColumn, string | number | null>>;

/** Headings and cells of the columns wanted, in their order. */
export function pagesTable(
  rows: readonly PageCells[],
  columns: readonly PageColumn[],
): { columns: string[]; rows: (string | number | undefined)[][] } {
  return {
    columns: columns.map((c) => PAGE_COLUMNS[c]),
    rows: rows.map((r) => columns.map((c) => r[c] ?? undefined)),
  };
}

/** The same as a CSV table. */
export function pagesCsv(rows: readonly PageCells[], columns: readonly PageColumn[]): string {
  const table = pagesTable(rows, columns);
  return toCsv(table.columns, table.rows);
}
