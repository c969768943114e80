/**
 * Reads large JSON straight from its bytes. Long string values (response bodies) are left where
 * they are and replaced by short keys, so that a 100 MB file never becomes a 100 MB string.
 */

const LONG_FROM = 16 * 1024;

/** A JSON document whose long strings stay in the original bytes. */
export interface JsonBytes {
  /** The document; a long string is a short key for `text` and `raw`. */
  readonly value: unknown;
  /** Text of a string value that may have been long; unescaped. */
  text(value: string): string;
  /** Raw bytes of a string value (no unescaping): right for base64. */
  raw(value: string): Uint8Array;
}

/** The file is not JSON. `offset` is in bytes of the file. */
export class JsonSyntaxError extends Error {
  constructor(
    message: string,
    readonly offset: number,
    readonly line: number,
  ) {
    super(message);
    this.name = 'JsonSyntaxError';
  }
}

/**
 * Parses UTF-8 JSON (RFC 8259).
 * @throws JsonSyntaxError with the byte offset and line of the fault.
 */
export function parseJsonBytes(input: Uint8Array): JsonBytes {
  const start = input[0] === 0xef && input[1] === 0xbb && input[2] === 0xbf ? 3 : 0;
  const mark = `@long:${digest(input).toString(36)}:`;
  const long: { start: number; end: number }[] = [];
  const decoder = new TextDecoder();
  const parts: string[] = [];
  /** For turning an offset in the skeleton back into one in the file. */
  const cuts: { skeleton: number; file: number }[] = [{ skeleton: 0, file: start }];
  let skeletonLength = 0;
  let from = start;
  let i = start;
  const end = input.length;
  while (i < end) {
    if (input[i] !== 0x22) {
      i++;
      continue;
    }
    const open = i;
    i = endOfString(input, i + 1);
    if (i >= end) break;
    if (i - open > LONG_FROM) {
      const before = decoder.decode(input.subarray(from, open + 1)) + mark + long.length;
      parts.push(before);
      skeletonLength += before.length;
      long.push({ start: open + 1, end: i });
      cuts.push({ skeleton: skeletonLength, file: i });
      from = i;
    }
    i++;
  }
  parts.push(decoder.decode(input.subarray(from)));
  let value: unknown;
  try {
    value = JSON.parse(parts.join(''));
  } catch (error) {
    throw syntaxError(error, input, cuts);
  }
  const find = (text: string) => (text.startsWith(mark) ? long[Number(text.slice(mark.length))] : undefined);
  return {
    value,
    text(text) {
      const at = find(text);
      if (!at) return text;
      try {
        return JSON.parse(decoder.decode(input.subarray(at.start - 1, at.end + 1))) as string;
      } catch {
        let line = 1;
        for (let k = 0; k < at.start; k++) if (input[k] === 0x0a) line++;
        throw new JsonSyntaxError(
          `Not valid JSON: a string that JSON does not allow (line ${line}, byte ${at.start}).`,
          at.start,
          line,
        );
      }
    },
    raw(text) {
      const at = find(text);
      return at ? input.subarray(at.start, at.end) : new TextEncoder().encode(text);
    },
  };
}

/** A number from the whole of a file (FNV-1a over up to 64 Ki of its bytes): no text in it happens to hold its own. */
function digest(input: Uint8Array): number {
  const step = Math.max(1, Math.floor(input.length / 65_536));
  let hash = 0x811c9dc5 ^ input.length;
  for (let i = 0; i < input.length; i += step) hash = Math.imul(hash ^ (input[i] ?? 0), 0x01000193);
  return hash >>> 0;
}

function endOfString(input: Uint8Array, from: number): number {
  let i = from;
  for (;;) {
    i = input.indexOf(0x22, i);
    if (i < 0) return input.length;
    let slashes = 0;
    while (input[i - 1 - slashes] === 0x5c) slashes++;
    if (slashes % 2 === 0) return i;
    i++;
  }
}

function syntaxError(error: unknown, input: Uint8Array, cuts: { skeleton: number; file: number }[]) {
  const message = error instanceof Error ? error.message : String(error);
  const position = /position (\d+)/.exec(message)?.[1];
  let offset = input.length;
  if (position !== undefined) {
    const at = Number(position);
    const cut = cuts.filter((c) => c.skeleton <= at).at(-1);
    offset = cut ? Math.min(input.length, cut.file + (at - cut.skeleton)) : at;
  }
  let line = 1;
  for (let i = 0; i < offset; i++) if (input[i] === 0x0a) line++;
  const cutShort = offset >= input.length - 1 || /end of JSON|Unterminated/i.test(message);
  const what = cutShort ? 'the file ends in the middle of the document' : 'a character that JSON does not allow';
  return new JsonSyntaxError(`Not valid JSON: ${what} (line ${line}, byte ${offset}).`, offset, line);
}
