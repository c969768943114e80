import { gunzipSync, inflateSync, unzlibSync } from 'fflate';
import { latin1 } from '../base64';
import { header, type Header } from '../capture';
import type { Decoders } from '../decoders';
import { bodyStart, readHeaderLines, type Resource } from './resource';
import { joined, type WarcRecord } from './warcRecords';

/** Bytes that one answer may unpack to. */
const MOST_UNPACKED = 64 * 1024 * 1024;

/** Puts contents away until a page asks for them; undefined where there is no room left. */
export type PutAway = (contents: Uint8Array) => (() => Uint8Array) | undefined;

const IN_MEMORY: PutAway = (contents) => () => contents;

/** An answer of an archive; where its contents are kept is left to whoever reads the archive. */
class Answer implements Resource {
  readonly url: string;
  readonly status: number;
  readonly headers: readonly Header[];
  readonly mimeType: string;
  readonly transferredBytes?: number;
  readonly fetchedAt?: number;
  readonly bodyBytes: number;

  constructor(
    head: Pick<Resource, 'url' | 'status' | 'headers' | 'mimeType' | 'transferredBytes' | 'fetchedAt'>,
    private readonly contents: { readonly bytes: number; readonly get: () => Uint8Array } | undefined,
  ) {
    this.url = head.url;
    this.status = head.status;
    this.headers = head.headers;
    this.mimeType = head.mimeType;
    this.transferredBytes = head.transferredBytes;
    this.fetchedAt = head.fetchedAt;
    this.bodyBytes = contents?.bytes ?? 0;
  }

  get body(): Uint8Array | undefined {
    return this.contents?.get();
  }

  /** The same contents under the head of an answer that was not stored again. */
  again(url: string, own: Answer | undefined): Answer {
    const { status, headers, transferredBytes, fetchedAt } = own ?? this;
    return new Answer(
      { url, status, headers, transferredBytes, fetchedAt, mimeType: own?.mimeType || this.mimeType },
      this.contents,
    );
  }
}

/** The answers among the records of a web archive (ISO 28500, 6), taken one record at a time. */
export class WarcAnswers {
  /** Answers in the order of the archive. */
  readonly all: Resource[] = [];
  private readonly byDigest = new Map<string, Answer>();
  private readonly byUrl = new Map<string, Answer>();
  private segments = 0;
  private unread = 0;
  private tooLarge = 0;
  private noRoom = 0;

  constructor(
    private readonly decoders: Decoders,
    private readonly putAway: PutAway = IN_MEMORY,
  ) {}

  /** Takes a record; one that is no answer is passed over. */
  take({ headers, block }: WarcRecord): void {
    const type = header(headers, 'warc-type')?.toLowerCase();
    if (type === 'continuation') this.segments++;
    const target = header(headers, 'warc-target-uri')?.replace(/^<|>$/g, '');
    if (target === undefined || !/^https?:/i.test(target)) return;
    const answer = this.answerIn(type, target, headers, block);
    if (!answer) return;
    const digest = header(headers, 'warc-payload-digest');
    if (digest && type !== 'revisit' && !this.byDigest.has(digest)) this.byDigest.set(digest, answer);
    if (!this.byUrl.has(target)) this.byUrl.set(target, answer);
    this.all.push(answer);
  }

  /** What could not be taken, in words. */
  notes(): string[] {
    const out: string[] = [];
    if (this.segments > 0)
      out.push(`${this.segments} records go on in other records or files: their rest was not read.`);
    if (this.unread > 0)
      out.push(`${this.unread} answers came in a coding that could not be read: without their contents.`);
    if (this.tooLarge > 0) out.push(`${this.tooLarge} records are larger than 64 MB: they were passed over.`);
    if (this.noRoom > 0)
      out.push(`The answers unpack to more than is read: ${this.noRoom} were taken without their contents.`);
    return out;
  }

  private answerIn(
    type: string | undefined,
    url: string,
    headers: readonly Header[],
    block: Uint8Array | undefined,
  ): Answer | undefined {
    const isHttp = /^application\/http\b/i.test(header(headers, 'content-type') ?? '');
    if (type !== 'response' && type !== 'resource' && type !== 'revisit') return undefined;
    if (!block) {
      this.tooLarge++;
      return undefined;
    }
    if (type === 'response') return isHttp ? this.httpAnswer(url, headers, block) : undefined;
    if (type === 'revisit') {
      const known =
        this.byDigest.get(header(headers, 'warc-payload-digest') ?? '') ??
        this.byUrl.get(header(headers, 'warc-refers-to-target-uri')?.replace(/^<|>$/g, '') ?? url);
      const own = isHttp && block.length > 0 ? this.httpAnswer(url, headers, block, true) : undefined;
      return known?.again(url, own);
    }
    const sentType = header(headers, 'content-type') ?? '';
    return new Answer(
      {
        url,
        status: 200,
        headers: [{ name: 'content-type', value: sentType }],
        mimeType: mimeOf(sentType),
        fetchedAt: timeOf(headers),
      },
      this.keep(block),
    );
  }

  /** An HTTP answer as it came over the wire (RFC 9112). */
  private httpAnswer(url: string, record: readonly Header[], block: Uint8Array, headOnly = false): Answer | undefined {
    const end = bodyStart(block, 0);
    const head = latin1(end < 0 ? block : block.subarray(0, end));
    const status = Number(/^HTTP\/[\d.]+ (\d{3})/.exec(head)?.[1]);
    if (!Number.isInteger(status)) return undefined;
    const headers = readHeaderLines(head.replace(/^[^\n]*\n/, ''));
    const sent = end < 0 ? new Uint8Array() : block.subarray(end);
    const raw = /\bchunked\b/i.test(header(headers, 'transfer-encoding') ?? '') ? withoutChunks(sent) : sent;
    const body = headOnly ? undefined : decodeContent(raw, header(headers, 'content-encoding'), this.decoders);
    if (!headOnly && !body) this.unread++;
    return new Answer(
      {
        url,
        status,
        headers,
        mimeType: mimeOf(header(headers, 'content-type')),
        transferredBytes: raw.length,
        fetchedAt: timeOf(record),
      },
      body && this.keep(body),
    );
  }

  private keep(body: Uint8Array): { bytes: number; get: () => Uint8Array } | undefined {
    const get = this.putAway(body);
    if (!get) this.noRoom++;
    return get && { bytes: body.length, get };
  }
}

const mimeOf = (type: string | undefined) => (type?.split(';')[0] ?? '').trim().toLowerCase();
const timeOf = (headers: readonly Header[]) => {
  const at = Date.parse(header(headers, 'warc-date') ?? '');
  return Number.isFinite(at) ? at : undefined;
};

/** Chunked transfer coding (RFC 9112, 7.1); as it is where a tool has taken it away and left the header. */
function withoutChunks(bytes: Uint8Array): Uint8Array {
  const parts: Uint8Array[] = [];
  for (let at = 0; at < bytes.length;) {
    const line = bytes.indexOf(0x0a, at);
    const size =
      line < 0
        ? undefined
        : /^([0-9a-f]{1,8})[ \t]*(?:;[^\r\n]*)?\r?$/i.exec(latin1(bytes.subarray(at, Math.min(line, at + 200))))?.[1];
    if (size === undefined) return parts.length === 0 ? bytes : joined(parts);
    const length = parseInt(size, 16);
    if (length === 0) break;
    parts.push(bytes.subarray(line + 1, line + 1 + length));
    at = line + 1 + length;
    if (bytes[at] === 0x0d) at++;
    if (bytes[at] === 0x0a) at++;
  }
  return joined(parts);
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
