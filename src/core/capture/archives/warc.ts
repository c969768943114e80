import { latin1 } from '../base64';
import { gunzipSync, unzlibSync, inflateSync } from 'fflate';
import { header, type Header } from '../capture';
import type { Decoders } from '../decoders';
import { InputError } from '../errors';
import type { ReadCapture } from '../har';
import { bodyStart, byAddress, isHtml, pageOf, readHeaderLines, type Resource } from './resource';

const NOTES = [
  'A web archive (WARC) holds answers without the times and order of a load: waits of servers are taken as 60 ms.',
  'A web archive holds no drawn page: hero, drawn sizes and script times are estimates.',
];

/** Pages of one archive that are read; what a crawl brought beyond is said. */
const MOST_PAGES = 200;
/** Bytes that one answer may unpack to. */
const MOST_UNPACKED = 64 * 1024 * 1024;

/** True for a file that begins with a WARC record (ISO 28500, 4). */
export function isWarc(bytes: Uint8Array): boolean {
  return /^WARC\/\d\.\d+\r?\n/.test(latin1(bytes.subarray(0, 16)));
}

/**
 * Reads a WARC file of version 1.0 or 1.1 (ISO 28500): every page among its answers with what that fetches. Answers that
 * were not stored again (revisit) have the contents of the one that they name.
 * @throws InputError for a broken record, and for an archive without pages
 */
export function readWarc(bytes: Uint8Array, fileName: string, decoders: Decoders = {}): ReadCapture[] {
  const notes = [...NOTES];
  const resources = resourcesOf(recordsOf(bytes, fileName), notes, decoders);
  const archive = byAddress(resources);
  const pages = [...archive.values()].filter((r) => r.status === 200 && isHtml(r) && (r.body?.length ?? 0) > 0);
  if (pages.length === 0)
    throw new InputError('The web archive holds no page.', fileName, 'Archive a page with what it needs.');
  if (pages.length > MOST_PAGES)
    notes.push(`The archive holds ${pages.length} pages: the first ${MOST_PAGES} were examined.`);
  const framed = new Set<string>();
  const out = pages.slice(0, MOST_PAGES).map((page) => {
    const read = pageOf(page, archive, notes, fileName);
    for (const one of read) for (const l of one.capture.loads) if (l.kind === 'frame') framed.add(l.url);
    return { url: page.url, read };
  });
  // What another page frames is part of that page.
  const own = out.filter((o) => !framed.has(o.url));
  return (own.length > 0 ? own : out).flatMap((o) => o.read);
}

interface WarcRecord {
  readonly headers: readonly Header[];
  readonly block: Uint8Array;
}

function* recordsOf(bytes: Uint8Array, fileName: string): Generator<WarcRecord> {
  for (let at = 0, n = 1; at < bytes.length; n++) {
    // Records end with two line ends, of which broken tools write more or fewer.
    while (bytes[at] === 0x0d || bytes[at] === 0x0a) at++;
    if (at >= bytes.length) return;
    const where = `${fileName}, record ${n}, byte ${at}`;
    if (!isWarc(bytes.subarray(at, at + 16)))
      throw new InputError(
        'The archive is broken: no record begins here.',
        where,
        'It may have been cut or changed: make it again.',
      );
    const start = bodyStart(bytes, at);
    if (start < 0) throw new InputError('The archive ends within the head of a record.', where, 'Copy it again.');
    const headers = readHeaderLines(latin1(bytes.subarray(at, start)).replace(/^[^\n]*\n/, ''));
    const length = Number(header(headers, 'content-length'));
    if (!Number.isInteger(length) || length < 0)
      throw new InputError('A record states no length.', where, 'The program that made the archive is at fault.');
    if (start + length > bytes.length)
      throw new InputError('The archive ends within a record.', where, 'It was cut short: copy it again.');
    yield { headers, block: bytes.subarray(start, start + length) };
    at = start + length;
  }
}

function resourcesOf(records: Iterable<WarcRecord>, notes: string[], decoders: Decoders): Resource[] {
  const out: Resource[] = [];
  const byDigest = new Map<string, Resource>();
  const byUrl = new Map<string, Resource>();
  let segments = 0;
  let unread = 0;
  for (const { headers, block } of records) {
    const type = header(headers, 'warc-type')?.toLowerCase();
    if (type === 'continuation') segments++;
    const target = header(headers, 'warc-target-uri')?.replace(/^<|>$/g, '');
    if (target === undefined || !/^https?:/i.test(target)) continue;
    const isHttp = /^application\/http\b/i.test(header(headers, 'content-type') ?? '');
    let resource: Resource | undefined;
    if (type === 'response' && isHttp) resource = answerOf(target, headers, block, decoders);
    else if (type === 'resource')
      resource = {
        url: target,
        status: 200,
        headers: [{ name: 'content-type', value: header(headers, 'content-type') ?? '' }],
        mimeType: mimeOf(header(headers, 'content-type')),
        body: block,
        fetchedAt: timeOf(headers),
      };
    else if (type === 'revisit') {
      const known =
        byDigest.get(header(headers, 'warc-payload-digest') ?? '') ??
        byUrl.get(header(headers, 'warc-refers-to-target-uri')?.replace(/^<|>$/g, '') ?? target);
      const own = isHttp && block.length > 0 ? answerOf(target, headers, block, decoders) : undefined;
      if (known)
        resource = { ...known, ...own, url: target, body: known.body, mimeType: own?.mimeType || known.mimeType };
    }
    if (!resource) continue;
    if (!resource.body) unread++;
    const digest = header(headers, 'warc-payload-digest');
    if (digest && type !== 'revisit' && !byDigest.has(digest)) byDigest.set(digest, resource);
    if (!byUrl.has(target)) byUrl.set(target, resource);
    out.push(resource);
  }
  if (segments > 0) notes.push(`${segments} records go on in other records or files: their rest was not read.`);
  if (unread > 0) notes.push(`${unread} answers came in a coding that could not be read: without their contents.`);
  return out;
}

const mimeOf = (type: string | undefined) => (type?.split(';')[0] ?? '').trim().toLowerCase();
const timeOf = (headers: readonly Header[]) => {
  const at = Date.parse(header(headers, 'warc-date') ?? '');
  return Number.isFinite(at) ? at : undefined;
};

/** An HTTP answer as it came over the wire (RFC 9112). */
function answerOf(url: string, record: readonly Header[], block: Uint8Array, decoders: Decoders): Resource | undefined {
  const end = bodyStart(block, 0);
  const head = latin1(end < 0 ? block : block.subarray(0, end));
  const status = Number(/^HTTP\/[\d.]+ (\d{3})/.exec(head)?.[1]);
  if (!Number.isInteger(status)) return undefined;
  const headers = readHeaderLines(head.replace(/^[^\n]*\n/, ''));
  const sent = end < 0 ? new Uint8Array() : block.subarray(end);
  const raw = /\bchunked\b/i.test(header(headers, 'transfer-encoding') ?? '') ? withoutChunks(sent) : sent;
  return {
    url,
    status,
    headers,
    mimeType: mimeOf(header(headers, 'content-type')),
    body: decodeContent(raw, header(headers, 'content-encoding'), decoders),
    transferredBytes: raw.length,
    fetchedAt: timeOf(record),
  };
}

/** Chunked transfer coding (RFC 9112, 7.1); as it is where a tool has taken it away and left the header. */
function withoutChunks(bytes: Uint8Array): Uint8Array {
  const parts: Uint8Array[] = [];
  for (let at = 0; at < bytes.length;) {
    const line = bytes.indexOf(0x0a, at);
    const size =
      line < 0
        ? undefined
        : /^([0-9a-f]{1,8})[ \t]*(?:;[^\r\n]*)?\r?$/i.exec(latin1(bytes.subarray(at, Math.min(line, at + 200))))?.[1];
    if (size === undefined) return parts.length === 0 ? bytes : join(parts);
    const length = parseInt(size, 16);
    if (length === 0) break;
    parts.push(bytes.subarray(line + 1, line + 1 + length));
    at = line + 1 + length;
    if (bytes[at] === 0x0d) at++;
    if (bytes[at] === 0x0a) at++;
  }
  return join(parts);
}

function join(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

/** Content codings (RFC 9110, 8.4.1) that are read here; undefined for others, and for broken or overlarge ones. */
function decodeContent(bytes: Uint8Array, coding: string | undefined, decoders: Decoders): Uint8Array | undefined {
  const name = coding?.trim().toLowerCase() ?? '';
  try {
    if (name === '' || name === 'identity') return bytes;
    if (name === 'gzip' || name === 'x-gzip') {
      // A tool may have unpacked it and left the header.
      if (bytes[0] !== 0x1f || bytes[1] !== 0x8b) return bytes;
      const size =
        bytes.length < 18 ? 0 : new DataView(bytes.buffer, bytes.byteOffset + bytes.length - 4, 4).getUint32(0, true);
      return size > MOST_UNPACKED ? undefined : within(gunzipSync(bytes));
    }
    if (name === 'br' || name === 'zstd') return decoders[name]?.(bytes, MOST_UNPACKED);
    if (name === 'deflate') return within((bytes[0] ?? 0) % 16 === 8 ? unzlibSync(bytes) : inflateSync(bytes));
  } catch {
    return undefined;
  }
  return undefined;
}

const within = (bytes: Uint8Array) => (bytes.length > MOST_UNPACKED ? undefined : bytes);
