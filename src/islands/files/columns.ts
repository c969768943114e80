import { cacheClass, fileType, type FileSort } from '../../core/pictures/fileQuery';
import type { SweepFile } from '../../core/pictures/files';
import { bytes } from '../ui/format';

/** A column of the list of files. */
export interface FileColumn {
  readonly key: string;
  readonly name: string;
  readonly right?: boolean;
  readonly sort?: FileSort;
  readonly means?: string;
  readonly value: (file: SweepFile) => string;
}

/** Every column besides the file itself, in the order in which they stand. */
export const FILE_COLUMNS: readonly FileColumn[] = [
  { key: 'type', name: 'Type', sort: 'type', value: fileType },
  { key: 'host', name: 'Host', sort: 'host', value: (f) => f.host + (f.thirdParty ? ' (third party)' : '') },
  { key: 'pages', name: 'Pages', right: true, sort: 'pages', value: (f) => String(f.uses.length) },
  { key: 'once', name: 'Size', right: true, sort: 'bytes', value: (f) => bytes(f.bytes) },
  { key: 'delivered', name: 'Delivered', right: true, sort: 'delivered', value: (f) => bytes(f.delivered) },
  { key: 'needed', name: 'Needed', right: true, sort: 'needed', value: (f) => bytes(f.needed) },
  {
    key: 'saved',
    name: 'Excess',
    right: true,
    sort: 'saved',
    value: (f) => (f.delivered > f.needed ? bytes(f.delivered - f.needed) : ''),
  },
  {
    key: 'again',
    name: 'Second visit',
    right: true,
    sort: 'again',
    means: 'What a second visit a day later transfers.',
    value: (f) => bytes(f.again),
  },
  { key: 'why', name: 'Reason', means: 'The fix that saves most of it.', value: (f) => f.why ?? '' },
  {
    key: 'used',
    name: 'Used',
    right: true,
    sort: 'used',
    means:
      'Of stylesheets that block what the content above the fold needs, of scripts what ran while the page loaded; on the page that uses most of it.',
    value: (f) => (f.usedShare === undefined ? '' : `${Math.round(100 * f.usedShare)} %`),
  },
  { key: 'cache', name: 'Cached for', right: true, sort: 'fresh', value: keptFor },
  { key: 'drawn', name: 'Displayed at', means: 'CSS pixels on this device.', value: (f) => f.drawn.join(', ') },
  {
    key: 'place',
    name: 'Queue place',
    right: true,
    sort: 'place',
    value: (f) => String(f.place),
  },
  { key: 'status', name: 'Status', right: true, value: (f) => (f.status === 0 ? 'no answer' : String(f.status)) },
  { key: 'protocol', name: 'Protocol', value: (f) => f.protocol },
  { key: 'encoding', name: 'Compression', value: (f) => f.encoding ?? '' },
];

const USUAL = ['type', 'pages', 'delivered', 'needed', 'saved', 'why', 'cache'];

/** The columns that an address asks for. */
export function shownColumns(query: URLSearchParams): FileColumn[] {
  const asked = query.get('columns')?.split('.') ?? USUAL;
  return FILE_COLUMNS.filter((c) => asked.includes(c.key));
}

/** How long browsers may use a file again without asking, for people. */
function keptFor({ freshS }: SweepFile): string {
  const kind = cacheClass(freshS);
  if (kind === 'not known') return '';
  if (freshS === undefined || kind === 'never') return 'not cached';
  if (freshS < 3600) return `${Math.round(freshS / 60)} min`;
  if (freshS < 86_400) return `${Math.round(freshS / 3600)} h`;
  const days = Math.round(freshS / 86_400);
  return days === 1 ? '1 day' : `${days.toLocaleString('en-GB')} days`;
}
