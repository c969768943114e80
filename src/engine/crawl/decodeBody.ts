import zlib from 'node:zlib';

/** A body after content coding and character encoding were undone. */
export interface DecodedBody {
  readonly text: string;
  readonly bytes: Uint8Array;
  /** The encoding it was read with, as the Encoding Standard names it. */
  readonly charset: string;
  readonly notes: readonly string[];
}

/** Thrown for a body that unpacks to more than it may. */
export class BombError extends Error {}

/**
 * Undoes Content-Encoding (RFC 9110, section 8.4). A body that was cut short gives what can be had of it.
 * @throws BombError when more than `maxBytes` come out
 */
export function undoCoding(bytes: Buffer, encoding: string, maxBytes: number, whole: boolean): Buffer {
  let out = bytes;
  for (const coding of encoding
    .split(',')
    .map((c) => c.trim().toLowerCase())
    .filter(Boolean)
    .reverse()) {
    const options = { maxOutputLength: maxBytes, ...(whole ? {} : { finishFlush: zlib.constants.Z_SYNC_FLUSH }) };
    try {
      if (coding === 'gzip' || coding === 'x-gzip') out = zlib.gunzipSync(out, options);
      else if (coding === 'deflate') out = inflate(out, options);
      else if (coding === 'br')
        out = zlib.brotliDecompressSync(out, {
          maxOutputLength: maxBytes,
          ...(whole ? {} : { finishFlush: zlib.constants.BROTLI_OPERATION_FLUSH }),
        });
      else if (coding !== 'identity') throw new Error(`the coding "${coding}" is not known`);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE') throw new BombError();
      throw error;
    }
  }
  return out;
}

/** Servers send deflate with and without the zlib wrapper. */
function inflate(bytes: Buffer, options: zlib.ZlibOptions): Buffer {
  try {
    return zlib.inflateSync(bytes, options);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE') throw error;
    return zlib.inflateRawSync(bytes, options);
  }
}

/**
 * Reads bytes as text the way a browser does (HTML Standard, 13.2.3.2): byte order mark, Content-Type, a meta
 * element in the first 1,024 bytes, else windows-1252.
 */
export function decodeText(bytes: Buffer, contentType: string): DecodedBody {
  const notes: string[] = [];
  const marked = bomOf(bytes);
  const stated = /charset\s*=\s*"?([^\s";]+)/i.exec(contentType)?.[1];
  const written = marked || stated ? undefined : metaCharset(bytes);
  const label = marked ?? stated ?? written;
  let decoder = label ? decoderFor(label) : undefined;
  if (label && !decoder) notes.push(`It names the character encoding "${label.slice(0, 40)}", which no browser knows.`);
  if (!decoder) {
    const isUtf8 = !label && looksLikeUtf8(bytes);
    if (!label) notes.push(`It does not say its character encoding; read as ${isUtf8 ? 'UTF-8' : 'windows-1252'}.`);
    decoder = new TextDecoder(isUtf8 ? 'utf-8' : 'windows-1252');
  }
  // The same as the decoder makes of it, without its start for each page.
  const text = decoder.encoding === 'utf-8' ? bytes.toString('utf8').replace(/^\uFEFF/, '') : decoder.decode(bytes);
  if (decoder.encoding === 'utf-8' && text.includes('\uFFFD'))
    notes.push('It says UTF-8, but some of its bytes are not: letters are lost.');
  return { text, bytes, charset: decoder.encoding, notes };
}

function bomOf(bytes: Buffer): string | undefined {
  if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) return 'utf-8';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  return undefined;
}

function metaCharset(bytes: Buffer): string | undefined {
  const head = bytes.subarray(0, 1024).toString('latin1');
  const label = /<meta[^>]+charset\s*=\s*["']?\s*([a-z0-9_:.-]+)/i.exec(head)?.[1];
  // A meta element that could be read as ASCII cannot be UTF-16 (Encoding sniffing, last steps).
  return label && /^utf-?16/i.test(label) ? 'utf-8' : label;
}

function decoderFor(label: string): TextDecoder | undefined {
  try {
    return new TextDecoder(label);
  } catch {
    return undefined;
  }
}

function looksLikeUtf8(bytes: Buffer): boolean {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes.subarray(0, 65_536), { stream: true });
    return true;
  } catch {
    return false;
  }
}
