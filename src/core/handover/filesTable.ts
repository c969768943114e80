import { fileType } from '../pictures/fileQuery';
import type { SweepFile } from '../pictures/files';

/** Columns of the table of files, in CSV and XLSX; bytes as transferred, cache lifetime in seconds. */
export const FILE_COLUMNS = [
  'address',
  'host',
  'third party',
  'type',
  'media type',
  'status',
  'protocol',
  'encoding',
  'pages',
  'bytes once',
  'bytes delivered',
  'bytes needed',
  'bytes again a day later',
  'reason',
  'used share',
  'cache seconds',
  'drawn at',
  'alternative texts',
  'place in the queue',
] as const;

/** One row a file. */
export function fileRows(files: readonly SweepFile[]): (string | number | undefined)[][] {
  return files.map((f) => [
    f.url,
    f.host,
    f.thirdParty ? 'yes' : 'no',
    fileType(f),
    f.type,
    f.status,
    f.protocol,
    f.encoding,
    f.uses.length,
    f.bytes,
    f.delivered,
    f.needed,
    f.again,
    f.why,
    f.usedShare === undefined ? undefined : Math.round(f.usedShare * 1000) / 1000,
    f.freshS,
    f.drawn.join('; '),
    f.alts.map((a) => (a === '' ? '(empty)' : a)).join('; '),
    f.place,
  ]);
}
