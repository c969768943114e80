import { latin1 } from '../base64';
import { decodeText } from '../decodeText';
import { InputError } from '../errors';
import type { ReadCapture } from '../har';
import { resolveUrl } from '../url';
import { parseDocument } from '../../source/document';
import { isLinkOf } from '../../source/linkRel';
import { byAddress, loadsOf, pageOf, type Resource } from './resource';

const NOTES = [
  'A saved page has no times, headers or order of loads: waits of servers are taken as 60 ms, sizes as unpacked.',
  'Browsers change a page when they save it: addresses and markup may differ from what the server sends.',
];

const TYPES: Readonly<Record<string, string>> = {
  html: 'text/html',
  htm: 'text/html',
  xhtml: 'application/xhtml+xml',
  css: 'text/css',
  js: 'text/javascript',
  mjs: 'text/javascript',
  json: 'application/json',
  svg: 'image/svg+xml',
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
  avif: 'image/avif',
  ico: 'image/x-icon',
  woff: 'font/woff',
  woff2: 'font/woff2',
  ttf: 'font/ttf',
  otf: 'font/otf',
};

/** True for what begins as an HTML document, comments and a byte order mark aside. */
export function isSavedPage(bytes: Uint8Array): boolean {
  const head = latin1(bytes.subarray(0, 4096))
    .replace(/^(\xef\xbb\xbf|\xff\xfe|\xfe\xff)/, '')
    .replaceAll('\0', '');
  return /^\s*(<!--[\s\S]*?-->\s*)*<(!doctype html|html|head|body|title|meta)\b/i.test(head);
}

/**
 * Reads a saved HTML page, alone or with the files that were saved beside it.
 * @param files by their path from the page's folder
 * @throws InputError when the page does not tell its address
 */
export function readSavedPage(
  bytes: Uint8Array,
  fileName: string,
  files: ReadonlyMap<string, Uint8Array> = new Map(),
): ReadCapture[] {
  const address = addressOf(bytes);
  if (address === undefined)
    throw new InputError(
      'The saved page does not say which address it came from.',
      fileName,
      'Add <link rel="canonical" href="https://..."> to its head, or record the page here.',
    );
  const resource = (url: string, body: Uint8Array, mimeType: string): Resource => ({
    url,
    status: 200,
    headers: [{ name: 'content-type', value: mimeType }],
    headersUnseen: true,
    mimeType,
    body,
  });
  const document = resource(address, bytes, 'text/html');
  const beside = [...files].flatMap(([path, body]) => {
    const url = resolveUrl(path.split('/').map(encodeURIComponent).join('/'), address);
    const type = TYPES[/\.([a-z\d]+)$/i.exec(path)?.[1]?.toLowerCase() ?? ''];
    return url && type ? [resource(url, body, type)] : [];
  });
  const notes = [
    ...NOTES,
    ...(files.size === 0 ? ['The page was saved alone: its styles, scripts and pictures were not examined.'] : []),
  ];
  return pageOf(loadsOf(document, byAddress([document, ...beside])), notes, fileName);
}

/** What browsers note when they save, else what the page says of itself. */
function addressOf(bytes: Uint8Array): string | undefined {
  const { text } = decodeText(bytes, 'text/html');
  const saved = /<!--\s*saved from url=\(\d+\)(https?:\/\/\S+?)\s*-->/i.exec(text.slice(0, 4096))?.[1];
  const document = parseDocument(text, 'https://saved.invalid/');
  const link = document.elements.find((e) => isLinkOf(e, 'canonical'))?.attributes.get('href');
  const meta = document.elements
    .find((e) => e.tag === 'meta' && e.attributes.get('property')?.toLowerCase() === 'og:url')
    ?.attributes.get('content');
  const base = document.elements.find((e) => e.tag === 'base')?.attributes.get('href');
  return [saved, link, meta, base].find((a) => a !== undefined && /^https?:\/\//i.test(a) && URL.canParse(a));
}
