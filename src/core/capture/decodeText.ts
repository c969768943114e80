import sniffEncoding from 'html-encoding-sniffer';

/** Text of a body, with the encoding it was read with. */
export interface DecodedText {
  readonly text: string;
  /** As the Encoding Standard names it. */
  readonly charset: string;
  /** What is wrong with how the encoding is stated, in plain words. */
  readonly notes: readonly string[];
}

/**
 * Reads bytes as text the way a browser does: byte order mark, charset of Content-Type, then a meta element in the
 * first 1,024 bytes of HTML (HTML, 13.2.3.2) or `@charset` of CSS (CSS Syntax 3, 3.2). What says nothing is read as
 * UTF-8 where it is that, HTML else as windows-1252.
 */
export function decodeText(bytes: Uint8Array, contentType: string): DecodedText {
  const stated = /charset\s*=\s*"?([^\s";]+)/i.exec(contentType)?.[1];
  const notes: string[] = [];
  if (stated && !decoderFor(stated))
    notes.push(`It names the character encoding "${stated.slice(0, 40)}", which no browser knows.`);
  const label = encodingOf(bytes, contentType, stated);
  if (label === undefined) {
    const charset = isHtml(contentType) && !looksLikeUtf8(bytes) ? 'windows-1252' : 'utf-8';
    if (isHtml(contentType) && !stated)
      notes.push(`It does not say its character encoding; read as ${charset === 'utf-8' ? 'UTF-8' : charset}.`);
    return { text: new TextDecoder(charset).decode(bytes), charset, notes };
  }
  const decoder = decoderFor(label) ?? new TextDecoder();
  const text = decoder.decode(bytes);
  if (decoder.encoding === 'utf-8' && text.includes('\uFFFD'))
    notes.push('It says UTF-8, but some of its bytes are not: letters are lost.');
  return { text, charset: decoder.encoding, notes };
}

/** Bytes that are looked at to tell UTF-8 from older encodings. */
const SNIFFED = 65_536;

const isHtml = (contentType: string) => /html|^\s*(;|$)/i.test(contentType);
/** What the sniffer answers when nothing is stated. */
const NOTHING_STATED = 'x-unstated';

function encodingOf(bytes: Uint8Array, contentType: string, stated: string | undefined): string | undefined {
  const label = sniffEncoding(bytes, {
    xml: !isHtml(contentType),
    transportLayerEncodingLabel: stated,
    defaultEncoding: NOTHING_STATED,
  } as Parameters<typeof sniffEncoding>[1]);
  if (label !== NOTHING_STATED) return label;
  if (!/css/i.test(contentType)) return undefined;
  const written = /^@charset "([\x20-\x21\x23-\x7e]{1,40})";/.exec(latin1(bytes.subarray(0, 1024)))?.[1];
  return written && (/^utf-16/i.test(written) ? 'utf-8' : decoderFor(written)?.encoding);
}

function latin1(bytes: Uint8Array): string {
  return String.fromCharCode(...bytes);
}

function decoderFor(label: string): TextDecoder | undefined {
  try {
    return new TextDecoder(label);
  } catch {
    return undefined;
  }
}

function looksLikeUtf8(bytes: Uint8Array): boolean {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes.subarray(0, SNIFFED), { stream: bytes.length > SNIFFED });
    return true;
  } catch {
    return false;
  }
}

/** Text as bytes that `decodeText` reads back. It is Unicode whatever the file was: a byte order mark keeps its charset from being applied again. */
export function encodeText(text: string): Uint8Array {
  const plain = /^[\x00-\x7f]*$/.test(text) || text.startsWith('\ufeff');
  return new TextEncoder().encode(plain ? text : `\ufeff${text}`);
}
