import { decodeText } from '../../core/capture/decodeText';
import { performance } from 'node:perf_hooks';
import { request, type Agent } from 'undici';
import type { SweepSettings } from '../../core/site/settings';
import { MAX_ROBOTS_BYTES } from '../../core/site/robots';
import { RefusedAddressError } from '../net/guard';
import { crawlAgent, type ConnectOptions } from './connector';
import { BombError, undoCoding } from './undoCoding';

/** Longest body that is read, as transferred and unpacked. */
export const MAX_BODY_BYTES = 10 * 1024 * 1024;
/** Longest time for one answer, in ms. */
export const MAX_ANSWER_MS = 30_000;

/** An answer to one request; redirects are not followed. */
export interface Fetched {
  readonly status: number;
  /** Names in lower case; repeated ones joined by a comma. */
  readonly headers: Readonly<Record<string, string>>;
  /** Body as text; undefined for what is not text that we read, or was not asked for. */
  readonly text?: string;
  readonly charset?: string;
  readonly bytes?: Uint8Array;
  readonly transferBytes?: number;
  readonly decodedBytes?: number;
  /** From asking to the first byte of the answer, a new connection included. */
  readonly answerMs: number;
  readonly totalMs: number;
  readonly notes: readonly string[];
}

/** Who broke off: nobody listened, the certificate was not accepted, or anything else. */
export type FetchFault = 'refused' | 'certificate' | 'no answer';

/** An answer that did not come; the message is for people. */
export class FetchError extends Error {
  constructor(
    message: string,
    /** Trying again may help. */
    readonly passing: boolean,
    readonly kind: FetchFault = 'no answer',
  ) {
    super(message);
  }
}

/** Which bodies are read: `page` HTML only, `text` anything (sitemaps), `robots` what counts of it, `none` none. */
export type WantedBody = 'page' | 'text' | 'robots' | 'none';

/** Asks for pages over kept-alive connections, with bounds on time and size. */
export class CrawlClient {
  private readonly agent: Agent;
  private readonly headers: Record<string, string>;

  constructor(
    settings: SweepSettings & Pick<ConnectOptions, 'ownPorts' | 'family' | 'roots'>,
    private readonly own: (url: string) => boolean,
    private readonly maxAnswerMs = MAX_ANSWER_MS,
  ) {
    this.agent = crawlAgent(settings);
    this.headers = {
      ...Object.fromEntries(settings.headers.map((h) => [h.name.toLowerCase(), h.value])),
      ...(settings.basicAuth
        ? {
            authorization: `Basic ${Buffer.from(`${settings.basicAuth.username}:${settings.basicAuth.password}`).toString('base64')}`,
          }
        : {}),
    };
    this.plain = { 'user-agent': settings.userAgent, 'accept-encoding': 'gzip, deflate, br' };
  }

  private readonly plain: Record<string, string>;

  close(): Promise<void> {
    return this.agent.destroy();
  }

  /** @throws FetchError when no answer comes about */
  async get(url: string, want: WantedBody, signal?: AbortSignal): Promise<Fetched> {
    const started = performance.now();
    const timeout = new AbortController();
    const timer = setTimeout(() => timeout.abort(), this.maxAnswerMs);
    const stop = () => timeout.abort();
    signal?.addEventListener('abort', stop, { once: true });
    try {
      const answer = await request(url, {
        dispatcher: this.agent,
        method: 'GET',
        // Secrets go to the site itself only.
        headers: {
          ...this.plain,
          accept: 'text/html,application/xhtml+xml;q=0.9,*/*;q=0.5',
          ...(this.own(url) ? this.headers : {}),
        },
        headersTimeout: this.maxAnswerMs,
        bodyTimeout: this.maxAnswerMs,
        signal: timeout.signal,
      });
      const answerMs = performance.now() - started;
      const headers = joinHeaders(answer.headers);
      const notes: string[] = [];
      const type = headers['content-type'] ?? '';
      const reads = want === 'text' || want === 'robots' || (want === 'page' && readsAsPage(type));
      const stated = Number(headers['content-length'] ?? NaN);
      if (!reads) {
        const small = stated <= 65_536;
        if (small) await answer.body.dump({ limit: 65_536 });
        else answer.body.on('error', () => undefined).destroy();
        return {
          status: answer.statusCode,
          headers,
          transferBytes: Number.isFinite(stated) ? stated : undefined,
          answerMs,
          totalMs: performance.now() - started,
          notes,
        };
      }
      const { body, whole } = await this.read(
        answer.body,
        timeout.signal,
        notes,
        want === 'robots' ? MAX_ROBOTS_BYTES : MAX_BODY_BYTES,
      );
      const totalMs = performance.now() - started;
      const decoded = unpack(body, headers['content-encoding'] ?? '', whole, notes);
      const gz = want === 'text' && decoded[0] === 0x1f && decoded[1] === 0x8b;
      const text = decodeText(gz ? unpack(decoded, 'gzip', whole, notes) : decoded, type);
      if (want === 'page') notes.push(...text.notes);
      return {
        status: answer.statusCode,
        headers,
        text: text.text,
        charset: text.charset,
        bytes: decoded,
        transferBytes: body.length,
        decodedBytes: decoded.length,
        answerMs,
        totalMs,
        notes,
      };
    } catch (error) {
      if (signal?.aborted) throw error;
      throw readableError(error, timeout.signal.aborted, this.maxAnswerMs);
    } finally {
      clearTimeout(timer);
      signal?.removeEventListener('abort', stop);
    }
  }

  /** Reads a body up to the bounds; past them what came so far is kept, and said. */
  private async read(
    body: AsyncIterable<Buffer> & { destroy(): void },
    signal: AbortSignal,
    notes: string[],
    most: number,
  ): Promise<{ body: Buffer; whole: boolean }> {
    const chunks: Buffer[] = [];
    let size = 0;
    try {
      for await (const chunk of body) {
        size += chunk.length;
        chunks.push(chunk);
        if (size > most) {
          notes.push(
            `The answer is longer than ${Math.round(most / 1000).toLocaleString('en-GB')} kB: the rest was not read.`,
          );
          body.destroy();
          return { body: Buffer.concat(chunks), whole: false };
        }
      }
    } catch (error) {
      if (size === 0) throw error;
      notes.push(
        signal.aborted || (error as { code?: string }).code === 'UND_ERR_BODY_TIMEOUT'
          ? `The answer had not ended after ${Math.round(this.maxAnswerMs / 1000)} s: what had come was read.`
          : 'The connection broke off in the middle of the answer: what had come was read.',
      );
      return { body: Buffer.concat(chunks), whole: false };
    }
    return { body: chunks.length === 1 ? (chunks[0] as Buffer) : Buffer.concat(chunks), whole: true };
  }
}

/** HTML and XHTML; an answer without a type is read too, as browsers sniff it. */
function readsAsPage(type: string): boolean {
  return type === '' || /^\s*(text\/html|application\/xhtml\+xml)/i.test(type);
}

function unpack(body: Buffer, encoding: string, whole: boolean, notes: string[]): Buffer {
  try {
    return undoCoding(body, encoding, MAX_BODY_BYTES, whole);
  } catch (error) {
    if (error instanceof BombError)
      throw new FetchError(
        `${body.length.toLocaleString('en-GB')} bytes unpack to more than ${MAX_BODY_BYTES / 1048576} MB: not read`,
        false,
      );
    notes.push(`The body is said to be ${encoding} but cannot be unpacked.`);
    return Buffer.alloc(0);
  }
}

function joinHeaders(raw: Record<string, string | string[] | undefined>): Record<string, string> {
  const out: Record<string, string> = {};
  for (const [name, value] of Object.entries(raw)) {
    if (value !== undefined) out[name] = Array.isArray(value) ? value.join(', ') : value;
  }
  return out;
}

const MEANS: readonly (readonly [pattern: RegExp, says: string, passing: boolean, kind?: FetchFault])[] = [
  [/ENOTFOUND|EAI_NONAME/, 'the host name is not known', false],
  [/EAI_AGAIN/, 'the name server did not answer', true],
  [/ECONNREFUSED/, 'the server refused the connection', true, 'refused'],
  [/ECONNRESET|EPIPE|UND_ERR_SOCKET|other side closed/, 'the server broke the connection off', true],
  [/UND_ERR_CONNECT_TIMEOUT|ETIMEDOUT|EHOSTUNREACH|ENETUNREACH/, 'the server cannot be reached', true],
  [/UND_ERR_HEADERS_TIMEOUT|UND_ERR_BODY_TIMEOUT/, 'no answer came in time', true],
  [/UND_ERR_HEADERS_OVERFLOW|HPE_HEADER_OVERFLOW/, 'the headers are longer than 64 kB', false],
  [/^HPE_|HTTPParserError/, 'the answer is not valid HTTP', false],
  [/CERT_HAS_EXPIRED/, 'the certificate has expired', false, 'certificate'],
  [/CERT_NOT_YET_VALID/, 'the certificate is not valid yet', false, 'certificate'],
  [/ERR_TLS_CERT_ALTNAME_INVALID/, 'the certificate is for another host', false, 'certificate'],
  [
    /SELF_SIGNED|UNABLE_TO_VERIFY|UNABLE_TO_GET_ISSUER|DEPTH_ZERO/,
    'the certificate is not signed by a known authority',
    false,
    'certificate',
  ],
  [/KEY_TOO_SMALL|MD_TOO_WEAK|^CERT_|ERR_TLS_CERT/, 'the certificate is too weak or not valid', false, 'certificate'],
  [/ERR_SSL|EPROTO/, 'no secure connection could be made (TLS)', false],
];

function readableError(error: unknown, timedOut: boolean, maxMs: number): Error {
  if (error instanceof FetchError) return error;
  const cause = error instanceof RefusedAddressError ? error : (error as { cause?: unknown }).cause;
  if (cause instanceof RefusedAddressError)
    return new FetchError(
      `${cause.message}: not asked${cause.own ? '' : ' (allow private addresses to do so)'}`,
      false,
    );
  if (timedOut) return new FetchError(`no answer within ${Math.round(maxMs / 1000)} s`, true);
  const { code, message, name } = error as NodeJS.ErrnoException;
  const text = `${code ?? ''} ${name ?? ''} ${message ?? ''}`.trim();
  const known = MEANS.find(([pattern]) => pattern.test(code ?? '') || pattern.test(text));
  return known ? new FetchError(known[1], known[2], known[3]) : new FetchError(text.slice(0, 200), false);
}
