import { latin1 } from '../base64';
import { header } from '../capture';
import { decodeText, encodeText } from '../decodeText';
import { InputError } from '../errors';
import type { ReadCapture } from '../har';
import { resolveUrl } from '../url';
import { bodyStart, byAddress, isHtml, loadsOf, pageOf, readHeaderLines, type Resource } from './resource';

const NOTES = [
  'A web archive (MHTML) holds the page as it was drawn, without its scripts: scripts were not examined.',
  'A web archive holds no times, headers or order of loads: waits of servers are taken as 60 ms, sizes as unpacked.',
];

/** True for the head of an aggregate HTML document (RFC 2557). */
export function isMhtml(bytes: Uint8Array): boolean {
  const head = latin1(bytes.subarray(0, 4096));
  return /^[\w-]+:[^\n]*\n/.test(head) && /^content-type:\s*multipart\/related\b/im.test(head);
}

/**
 * Reads an MHTML document (RFC 2557; MIME, RFC 2045 and 2046): its root, and the parts that it fetches.
 * @throws InputError for one without boundary, parts or page
 */
export function readMhtml(bytes: Uint8Array, fileName: string): ReadCapture[] {
  const fault = (what: string) => new InputError(what, fileName, 'Save the page again as a web archive.');
  const start = bodyStart(bytes, 0);
  if (start < 0) throw fault('The web archive ends within its head.');
  const head = readHeaderLines(latin1(bytes.subarray(0, start)));
  const type = header(head, 'content-type') ?? '';
  const boundary = parameter(type, 'boundary');
  if (!boundary) throw fault('The web archive names no boundary between its parts.');
  const parts = splitParts(bytes, start, boundary).map(readPart);
  if (parts.length === 0) throw fault('The web archive has no parts.');
  const stated = header(head, 'snapshot-content-location');
  const wanted = parameter(type, 'start')?.replace(/^<|>$/g, '');
  const root =
    parts.find((p) => wanted !== undefined && p.id === wanted) ??
    parts.find((p) => stated !== undefined && p.location === stated && p.isHtml) ??
    parts.find((p) => p.isHtml);
  if (!root) throw fault('The web archive holds no page.');
  const address = webAddress(root.location) ?? webAddress(stated);
  if (address === undefined) throw fault('The web archive does not say which address its page came from.');
  const fetchedAt = Date.parse(header(head, 'date') ?? '');
  const byId = new Map(parts.flatMap((p) => (p.id === undefined ? [] : [[p.id, p] as const])));
  const resources = parts.map((part): Resource => {
    const url =
      part === root ? address : (webAddress(part.location, address) ?? resolveUrl(part.location ?? '', address) ?? '');
    return {
      url,
      status: 200,
      headers: [{ name: 'content-type', value: part.type }],
      headersUnseen: true,
      mimeType: part.mimeType,
      body: part.isHtml ? withoutIds(part, byId, parts) : part.body,
      fetchedAt: Number.isFinite(fetchedAt) ? fetchedAt : undefined,
    };
  });
  const document = resources[parts.indexOf(root)] as Resource;
  const archive = byAddress(resources.filter((r) => /^https?:/i.test(r.url)));
  return pageOf(loadsOf(document, archive), NOTES, fileName);
}

interface Part {
  readonly id?: string;
  readonly location?: string;
  readonly type: string;
  readonly mimeType: string;
  readonly isHtml: boolean;
  readonly body: Uint8Array;
}

function parameter(value: string, name: string): string | undefined {
  const match = new RegExp(`;\\s*${name}\\s*=\\s*(?:"([^"]*)"|([^;\\s]+))`, 'i').exec(value);
  return match?.[1] ?? match?.[2];
}

const webAddress = (text: string | undefined, base?: string): string | undefined => {
  if (text === undefined || (base === undefined && !/^https?:/i.test(text))) return undefined;
  const url = resolveUrl(text, base ?? text);
  return url && /^https?:/i.test(url) ? url : undefined;
};

/** What stands between lines of `--boundary` (RFC 2046, 5.1.1). */
function splitParts(bytes: Uint8Array, from: number, boundary: string): Uint8Array[] {
  const mark = encodeText(`--${boundary}`);
  const out: Uint8Array[] = [];
  let open = -1;
  for (let at = from; at <= bytes.length - mark.length;) {
    const next = indexOf(bytes, mark, at);
    if (next < 0) break;
    // A boundary begins a line.
    if (next > from && bytes[next - 1] !== 0x0a) {
      at = next + 1;
      continue;
    }
    if (open >= 0) out.push(bytes.subarray(open, Math.max(open, lineEndBefore(bytes, next))));
    const after = next + mark.length;
    if (bytes[after] === 0x2d && bytes[after + 1] === 0x2d) return out;
    const line = bytes.indexOf(0x0a, after);
    if (line < 0) return out;
    open = line + 1;
    at = open;
  }
  // Cut short: the last part goes to the end.
  if (open >= 0 && open < bytes.length) out.push(bytes.subarray(open));
  return out;
}

const lineEndBefore = (bytes: Uint8Array, at: number) => (bytes[at - 2] === 0x0d ? at - 2 : at - 1);

function indexOf(bytes: Uint8Array, mark: Uint8Array, from: number): number {
  const [first] = mark;
  for (let at = bytes.indexOf(first as number, from); at >= 0; at = bytes.indexOf(first as number, at + 1)) {
    let n = 1;
    while (n < mark.length && bytes[at + n] === mark[n]) n++;
    if (n === mark.length) return at;
  }
  return -1;
}

function readPart(bytes: Uint8Array): Part {
  const start = Math.max(0, bodyStart(bytes, 0));
  const head = readHeaderLines(latin1(bytes.subarray(0, start)));
  const type = header(head, 'content-type') ?? 'application/octet-stream';
  const mimeType = (type.split(';')[0] ?? '').trim().toLowerCase();
  return {
    id: header(head, 'content-id')?.replace(/^<|>$/g, ''),
    location: header(head, 'content-location'),
    type,
    mimeType,
    isHtml: isHtml({ url: '', status: 200, headers: [], mimeType }),
    body: decodeTransfer(bytes.subarray(start), header(head, 'content-transfer-encoding')),
  };
}

/** MIME transfer encodings (RFC 2045, 6): what cannot be decoded stays as it is. */
function decodeTransfer(bytes: Uint8Array, encoding = '7bit'): Uint8Array {
  switch (encoding.trim().toLowerCase()) {
    case 'base64': {
      try {
        const text = atob(latin1(bytes).replace(/[^A-Za-z0-9+/=]/g, ''));
        return Uint8Array.from(text, (c) => c.charCodeAt(0));
      } catch {
        return bytes;
      }
    }
    case 'quoted-printable':
      return quotedPrintable(bytes);
    default:
      return bytes;
  }
}

const hex = (code: number | undefined): number =>
  code === undefined
    ? -1
    : code >= 48 && code <= 57
      ? code - 48
      : (code | 32) >= 97 && (code | 32) <= 102
        ? (code | 32) - 87
        : -1;

function quotedPrintable(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length);
  let n = 0;
  for (let i = 0; i < bytes.length; i++) {
    const b = bytes[i] as number;
    if (b !== 0x3d) {
      out[n++] = b;
      continue;
    }
    const high = hex(bytes[i + 1]);
    const low = hex(bytes[i + 2]);
    if (high >= 0 && low >= 0) {
      out[n++] = 16 * high + low;
      i += 2;
    } else if (bytes[i + 1] === 0x0a) i += 1;
    else if (bytes[i + 1] === 0x0d && bytes[i + 2] === 0x0a) i += 2;
    else out[n++] = b;
  }
  return out.slice(0, n);
}

const CID = /cid:([^"'\s)>]+)/gi;
const SHEET = /<link\b[^>]*\bhref=["']?cid:([^"'\s>]+)["']?[^>]*>/gi;

/**
 * A document without references to parts by their number (RFC 2392): a sheet that has no address of its own stood in a
 * style element; anything else is named by its address.
 */
function withoutIds(part: Part, byId: ReadonlyMap<string, Part>, parts: readonly Part[]): Uint8Array {
  const { text } = decodeText(part.body, part.type);
  if (!/cid:/i.test(text)) return part.body;
  const named = (id: string) => byId.get(decoded(id)) ?? parts.find((p) => p.location === `cid:${id}`);
  const sheets = text.replace(SHEET, (link, id: string) => {
    const sheet = named(id);
    if (!sheet || webAddress(sheet.location) || sheet.mimeType !== 'text/css') return link;
    return `<style>${decodeText(sheet.body, sheet.type).text.replace(/<\/style/gi, '<\\/style')}</style>`;
  });
  return encodeText(sheets.replace(CID, (reference, id: string) => webAddress(named(id)?.location) ?? reference));
}

function decoded(id: string): string {
  try {
    return decodeURIComponent(id);
  } catch {
    return id;
  }
}
