import { shortHash } from '../hash';

/** Longest part of a path that every file system takes, less what a query adds. */
const LONGEST_PART = 200;
/** Names that Windows keeps for devices. */
const DEVICE = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;

/**
 * Where a file of a site is written: `host/path`, `index.html` for a path that ends with a slash, `.html` behind a name
 * without extension (a folder may have that name), a short hash of the query before the extension. Nothing leads out of
 * the folder, and every part can be written on Windows and Linux.
 */
export function filePathOf(url: string): string {
  const { host, pathname, search } = new URL(url);
  const parts = pathname.split('/').slice(1);
  const last = parts.pop() || 'index.html';
  const name = last.lastIndexOf('.') > 0 ? last : `${last}.html`;
  const dot = name.lastIndexOf('.');
  const named = search === '' ? name : `${name.slice(0, dot)}.${shortHash(search)}${name.slice(dot)}`;
  return [host, ...parts, named].filter(Boolean).map(safePart).join('/');
}

function safePart(part: string): string {
  const plain = part.replace(/[\u0000-\u001f<>:"\\|?*]/g, '_').replace(/[. ]+$/, (end) => '_'.repeat(end.length));
  const short = plain.length > LONGEST_PART ? `${plain.slice(0, LONGEST_PART - 10)}~${shortHash(plain)}` : plain;
  return DEVICE.test(short) ? `_${short}` : short;
}
