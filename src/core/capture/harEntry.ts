import { decodeBase64 } from './base64';
import { header, type Header, type Load, type LoadTimings } from './capture';
import { encodeText } from './decodeText';
import { InputError } from './errors';
import type { JsonBytes } from './jsonBytes';
import { kindOfLoad, protocolOf } from './kind';
import { readEntryLens } from './lens';
import { redactHeaders, redactLinks, redactUrl, type Secrets } from './redact';
import type { Shape } from './shape';
import { resolveUrl } from './url';

/** One entry of a HAR as a load. */
export interface ReadEntry {
  readonly load: Load;
  readonly body: Uint8Array | undefined;
  readonly negative: boolean;
}

/**
 * Reads an entry (HAR 1.2, entries).
 * @param startMs when it began, counted from the start of the page
 * @param secrets gets the values that were cut
 * @throws InputError naming the JSON path of what is wrong
 */
export function readEntry(json: JsonBytes, entry: Shape, index: number, startMs: number, secrets: Secrets): ReadEntry {
  const request = entry.at('request').object('Every entry has a request.');
  const response = entry.at('response').object('Every entry has a response.');
  const rawUrl = request.at('url').string('Every request has a url.');
  if (!resolveUrl(rawUrl, 'https://none.invalid/') || !/^[a-z][a-z0-9+.-]*:/i.test(rawUrl)) {
    throw new InputError(`"${rawUrl.slice(0, 80)}" is not an absolute URL.`, request.at('url').path, 'Export again.');
  }
  const url = redactUrl(resolveUrl(rawUrl, rawUrl) ?? rawUrl, secrets);
  const requestHeaders = readHeaders(request.at('headers'));
  const responseHeaders = readHeaders(response.at('headers'));
  const status = Math.max(0, response.at('status').optionalNumber() ?? 0);
  const content = response.at('content');
  const mimeType = (
    content.at('mimeType').optionalString() ??
    header(responseHeaders, 'content-type') ??
    ''
  ).toLowerCase();
  const version = response.at('httpVersion').optionalString() || request.at('httpVersion').optionalString() || '';
  const { timings, totalMs, negative } = readTimings(entry);
  const body = readBody(json, content);
  const decodedBytes = Math.max(0, content.at('size').optionalNumber() ?? body?.length ?? 0) || (body?.length ?? 0);
  const headerBytes = positive(response.at('headersSize').optionalNumber()) ?? sizeOfHeaders(responseHeaders);
  const lens = readEntryLens(entry.at('_lens'));
  const location = header(responseHeaders, 'location') ?? response.at('redirectURL').optionalString();
  const redirects = status >= 300 && status < 400 && status !== 304 && location;
  const load: Load = {
    index,
    url,
    method: request.at('method').optionalString() ?? 'GET',
    status,
    kind: kindOfLoad(lens.kind, requestHeaders, mimeType, url),
    mimeType,
    protocol: protocolOf(version),
    startMs,
    endMs: startMs + totalMs,
    timings,
    otherRuns: lens.otherRuns,
    ...(lens.pauses && { pauses: lens.pauses }),
    ...(lens.earlyHints && { earlyHints: { ...lens.earlyHints, links: redactLinks(lens.earlyHints.links, secrets) } }),
    ...(lens.fromEarlyHints && { fromEarlyHints: true }),
    requestBytes:
      (positive(request.at('headersSize').optionalNumber()) ?? sizeOfHeaders(requestHeaders)) +
      Math.max(0, request.at('bodySize').optionalNumber() ?? 0),
    headerBytes,
    bodyBytes: bodySize(response, content, responseHeaders, decodedBytes),
    decodedBytes,
    requestHeaders: redactHeaders(requestHeaders, secrets),
    responseHeaders: redactHeaders(responseHeaders, secrets),
    redirectTo: redirects ? redactUrl(resolveUrl(location, url) ?? location, secrets) : undefined,
    priority: lens.priority,
    initiator: lens.initiator,
    renderBlocking: lens.renderBlocking,
    error: lens.error,
    mixedBlocked: lens.mixedBlocked,
    ...(lens.headersUnseen && { headersUnseen: true }),
    connection: entry.at('connection').optionalString(),
  };
  return { load, body, negative };
}

function readHeaders(shape: Shape): Header[] {
  return shape.optionalArray().map((h) => ({
    name: h.at('name').string('A header has a name.'),
    value: h.at('value').optionalString() ?? '',
  }));
}

function readTimings(entry: Shape): { timings: LoadTimings; totalMs: number; negative: boolean } {
  const t = entry.at('timings');
  let negative = false;
  const read = (name: string): number | undefined => {
    const value = t.at(name).optionalNumber();
    if (value === undefined || value === -1) return undefined;
    if (value < 0) negative = true;
    return Math.max(0, value);
  };
  const tlsMs = read('ssl');
  const connectAll = read('connect');
  const timings: LoadTimings = {
    blockedMs: read('blocked'),
    dnsMs: read('dns'),
    // HAR 1.2: connect includes ssl.
    connectMs: connectAll === undefined ? undefined : Math.max(0, connectAll - (tlsMs ?? 0)),
    tlsMs,
    sendMs: read('send') ?? 0,
    waitMs: read('wait') ?? 0,
    receiveMs: read('receive') ?? 0,
  };
  const sum =
    (timings.blockedMs ?? 0) +
    (timings.dnsMs ?? 0) +
    (timings.connectMs ?? 0) +
    (timings.tlsMs ?? 0) +
    timings.sendMs +
    timings.waitMs +
    timings.receiveMs;
  const stated = entry.at('time').optionalNumber();
  if (stated !== undefined && stated < 0) negative = true;
  return { timings, totalMs: sum > 0 ? sum : Math.max(0, stated ?? 0), negative };
}

function readBody(json: JsonBytes, content: Shape): Uint8Array | undefined {
  const text = content.at('text').optionalLongText();
  if (text === undefined) return undefined;
  const encoding = content.at('encoding').optionalString();
  if (encoding === 'base64') {
    try {
      return decodeBase64(json.raw(text));
    } catch {
      throw new InputError('The body says base64 but is not.', content.at('text').path, 'Export the HAR again.');
    }
  }
  if (encoding !== undefined && encoding !== '') {
    throw new InputError(`Unknown body encoding "${encoding}".`, content.at('encoding').path, 'HAR 1.2 knows base64.');
  }
  return encodeText(json.text(text));
}

function bodySize(response: Shape, content: Shape, headers: readonly Header[], decodedBytes: number): number {
  const stated = positive(response.at('bodySize').optionalNumber());
  if (stated !== undefined && (stated > 0 || decodedBytes === 0)) return stated;
  const compression = content.at('compression').optionalNumber();
  if (compression !== undefined && compression > 0) return Math.max(0, decodedBytes - compression);
  const length = Number(header(headers, 'content-length'));
  if (Number.isFinite(length) && length > 0) return length;
  // Text that came encoded but whose transferred size nobody noted: about a quarter of it.
  if (header(headers, 'content-encoding')) return Math.round(decodedBytes * 0.27);
  return decodedBytes;
}

function sizeOfHeaders(headers: readonly Header[]): number {
  return headers.reduce((sum, h) => sum + h.name.length + h.value.length + 4, 0) + 20;
}

/** A number that is stated: HAR writes -1 for what it does not know. */
export function positive(value: number | undefined): number | undefined {
  return value !== undefined && value >= 0 ? value : undefined;
}
