import { encodeBase64 } from '../base64';
import { decodeText } from '../decodeText';
import { readHar, type ReadCapture } from '../har';
import { header, type Header } from '../capture';
import { resolveUrl } from '../url';
import { parseDocument } from '../../source/document';
import { listMentions } from '../../source/mentions';
import { listStyleReferences } from '../../source/stylesheet';

/** A file of an archive: an answer without the load that it belonged to. */
export interface Resource {
  readonly url: string;
  readonly status: number;
  readonly headers: readonly Header[];
  /** The archive has none: those that are here say the type alone. */
  readonly headersUnseen?: true;
  readonly mimeType: string;
  /** After transfer and content decoding; undefined where the archive has none. */
  readonly body?: Uint8Array;
  /** Length of the body; counted from it where not stated. */
  readonly bodyBytes?: number;
  /** Body as transferred, where the archive tells. */
  readonly transferredBytes?: number;
  /** When it was fetched, ms since 1970. */
  readonly fetchedAt?: number;
}

/** Archives keep no times of a load: every server is taken to think for so long, in ms. */
const ASSUMED_WAIT_MS = 60;
const DEEPEST_FRAME = 3;

/** Resources by address, the first of each. */
export function byAddress(resources: readonly Resource[]): Map<string, Resource> {
  const out = new Map<string, Resource>();
  for (const r of resources) if (!out.has(plain(r.url))) out.set(plain(r.url), r);
  return out;
}

const plain = (url: string) => url.replace(/#.*$/s, '');

/** What a page load fetches: by address without fragment, the document among it. */
export interface PageLoads {
  readonly document: Resource;
  readonly loads: ReadonlyMap<string, { readonly resource: Resource; readonly frame: boolean }>;
}

/** The document and what it, its styles and its frames fetch, as far as the archive has it. */
export function loadsOf(document: Resource, archive: ReadonlyMap<string, Resource>): PageLoads {
  const loads = new Map<string, { resource: Resource; frame: boolean }>();
  for (const hop of hopsTo(document, archive)) loads.set(plain(hop.url), { resource: hop, frame: false });
  loads.set(plain(document.url), { resource: document, frame: false });
  collect(document, archive, loads, 0);
  return { document, loads };
}

/**
 * The page load as a capture.
 * @param notes what this kind of archive does not hold, for `notExamined`
 * @throws InputError as `readHar` does
 */
export function pageOf({ document, loads }: PageLoads, notes: readonly string[], fileName: string): ReadCapture[] {
  const startedAt = document.fetchedAt ?? 0;
  const entries = [...loads.values()].map(({ resource, frame }, i) => entryOf(resource, frame, startedAt + i));
  const page = { id: 'page_1', startedDateTime: iso(startedAt), title: '', pageTimings: {}, _lens: { notes } };
  const har = { log: { version: '1.2', pages: [page], entries: entries.map((e) => ({ pageref: 'page_1', ...e })) } };
  return readHar(new TextEncoder().encode(JSON.stringify(har)), fileName);
}

/** Redirects of the archive that lead to a document. */
function hopsTo(document: Resource, archive: ReadonlyMap<string, Resource>): Resource[] {
  const out: Resource[] = [];
  let at = plain(document.url);
  for (let guard = 0; guard < 10; guard++) {
    const before = [...archive.values()].find(
      (r) => r.status >= 300 && r.status < 400 && !out.includes(r) && redirectOf(r) === at,
    );
    if (!before) break;
    out.unshift(before);
    at = plain(before.url);
  }
  return out;
}

function redirectOf(r: Resource): string | undefined {
  const to = header(r.headers, 'location');
  const url = to === undefined ? undefined : resolveUrl(to, r.url);
  return url && plain(url);
}

function collect(
  of: Resource,
  archive: ReadonlyMap<string, Resource>,
  loads: Map<string, { resource: Resource; frame: boolean }>,
  depth: number,
): void {
  for (const url of referencesOf(of)) {
    let next = lookUp(url, archive);
    for (let guard = 0; next && guard < 10; guard++) {
      if (loads.has(plain(next.url))) break;
      const isFrame = isHtml(next);
      if (isFrame && depth >= DEEPEST_FRAME) break;
      loads.set(plain(next.url), { resource: next, frame: isFrame });
      const to = next.status >= 300 && next.status < 400 ? redirectOf(next) : undefined;
      if (to === undefined) {
        if (isFrame || isStyle(next)) collect(next, archive, loads, depth + (isFrame ? 1 : 0));
        break;
      }
      next = lookUp(to, archive);
    }
  }
}

/** An http address that a browser would have asked for over https. */
const lookUp = (url: string, archive: ReadonlyMap<string, Resource>): Resource | undefined =>
  archive.get(plain(url)) ?? archive.get(plain(url).replace(/^http:/, 'https:'));

export const isHtml = (r: Resource) => /^(text\/html|application\/xhtml\+xml)/.test(r.mimeType);
const isStyle = (r: Resource) => r.mimeType.startsWith('text/css');

/** Many pages name the same styles: each is read once. */
const known = new WeakMap<Resource, readonly string[]>();

function referencesOf(r: Resource): readonly string[] {
  const urls = known.get(r) ?? readReferences(r);
  known.set(r, urls);
  return urls;
}

function readReferences(r: Resource): string[] {
  const { body } = r;
  if (!body) return [];
  const { text } = decodeText(body, header(r.headers, 'content-type') ?? r.mimeType);
  if (isStyle(r)) return listStyleReferences(text, r.url).map((s) => s.url);
  const document = parseDocument(text, r.url);
  const out = listMentions(document).flatMap((m) => (m.use === 'load' && !m.element.inert ? [m.url] : []));
  for (const element of document.elements) {
    const css = element.tag === 'style' ? element.text : element.attributes.get('style');
    if (css && !element.inert) out.push(...listStyleReferences(css, document.baseUrl).map((s) => s.url));
  }
  return out;
}

function entryOf(r: Resource, frame: boolean, startedAt: number): object {
  const { body } = r;
  const size = body?.length ?? 0;
  return {
    startedDateTime: iso(startedAt),
    time: ASSUMED_WAIT_MS,
    request: { method: 'GET', url: r.url, httpVersion: 'HTTP/1.1', headers: [], headersSize: -1, bodySize: 0 },
    response: {
      status: r.status,
      httpVersion: 'HTTP/1.1',
      headers: r.headers,
      content: { size, mimeType: r.mimeType, ...(body && { text: encodeBase64(body), encoding: 'base64' }) },
      redirectURL: header(r.headers, 'location') ?? '',
      headersSize: -1,
      bodySize: r.transferredBytes ?? -1,
    },
    timings: { send: 0, wait: ASSUMED_WAIT_MS, receive: 0 },
    _lens: { ...(frame && { kind: 'frame' }), headersUnseen: r.headersUnseen },
  };
}

/** A time of the archive; the first day of the web's own time where it has none or an odd one. */
function iso(ms: number): string {
  return new Date(Number.isFinite(ms) && ms > 0 && ms < 4e12 ? ms : 0).toISOString();
}

/** Header lines of a message, folded ones joined (RFC 5322, 2.2.3); what is no header is left out. */
export function readHeaderLines(text: string): Header[] {
  const out: Header[] = [];
  for (const line of text.replace(/\r?\n[ \t]+/g, ' ').split(/\r?\n/)) {
    const colon = line.indexOf(':');
    if (colon > 0) out.push({ name: line.slice(0, colon).trim(), value: line.slice(colon + 1).trim() });
  }
  return out;
}

/** Where headers end: the offset of the body behind the first empty line at or after `from`; -1 for none. */
export function bodyStart(bytes: Uint8Array, from: number): number {
  for (let at = from; at < bytes.length; at++) {
    if (bytes[at] !== 0x0a) continue;
    if (bytes[at + 1] === 0x0a) return at + 2;
    if (bytes[at + 1] === 0x0d && bytes[at + 2] === 0x0a) return at + 3;
  }
  return -1;
}
