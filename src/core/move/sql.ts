/** How a dump writes its strings: MySQL escapes with backslashes, standard SQL only doubles the quote. */
export type SqlDialect = 'backslash' | 'standard';

/** Tells the dialect from the beginning of a dump. */
export function dialectOf(head: string): SqlDialect {
  return /PostgreSQL database dump|^PRAGMA |^SET standard_conforming_strings = on/im.test(head)
    ? 'standard'
    : 'backslash';
}

/** True for what begins like a dump of a database. */
export function looksLikeSql(head: string): boolean {
  return /^\s*(--[^\n]*\n\s*|\/\*[\s\S]*?\*\/;?\s*|#[^\n]*\n\s*)*(CREATE|INSERT|DROP|SET|BEGIN|PRAGMA|USE|LOCK|START|COPY|REPLACE)\b/i.test(
    head,
  );
}

/** A piece of a dump that holds a value: the inside of a string, or a line of COPY data. */
export interface SqlPiece {
  readonly start: number;
  readonly end: number;
  readonly escapes: SqlDialect | 'copy';
  /** The quote around it. */
  readonly quote: string;
}

/** Where a scan of a dump stands between two chunks. */
export interface SqlState {
  readonly copying: boolean;
}

/**
 * The values in a chunk of a dump, and how far it could be read: up to the last line end outside of strings. The rest
 * belongs to the next chunk.
 * @param last nothing comes after this chunk
 */
export function scanSql(
  text: string,
  dialect: SqlDialect,
  state: SqlState,
  last: boolean,
): { pieces: SqlPiece[]; upTo: number; state: SqlState } {
  const pieces: SqlPiece[] = [];
  let { copying } = state;
  let safe = 0;
  let safeState = state;
  let safePieces = 0;
  let at = 0;
  const mark = /['"`\n]|--|\/\*/g;
  while (at < text.length) {
    if (copying) {
      const end = text.indexOf('\n', at);
      if (end < 0 && !last) break;
      const stop = end < 0 ? text.length : end;
      if (text.slice(at, stop).replace(/\r$/, '') === '\\.') copying = false;
      else pieces.push({ start: at, end: stop, escapes: 'copy', quote: '' });
      at = stop + 1;
      safe = Math.min(at, text.length);
      safeState = { copying };
      safePieces = pieces.length;
      continue;
    }
    mark.lastIndex = at;
    const found = mark.exec(text);
    if (!found) break;
    const c = found[0];
    at = found.index + c.length;
    if (c === '\n') {
      const line = text.slice(Math.max(0, text.lastIndexOf('\n', found.index - 1) + 1), found.index);
      if (/^COPY .* FROM stdin;\r?$/i.test(line)) copying = true;
      safe = at;
      safeState = { copying };
      safePieces = pieces.length;
    } else if (c === '--') {
      // A comment only at the beginning of a line or before a space: `5--3` is a sum.
      if (!/^[ \t\r\n]/.test(text[at] ?? '\n')) continue;
      const end = text.indexOf('\n', at);
      if (end < 0) break;
      at = end;
    } else if (c === '/*') {
      // MySQL runs what stands in /*! ... */, so its strings count.
      if (text[at] === '!') continue;
      const end = text.indexOf('*/', at);
      if (end < 0) break;
      at = end + 2;
    } else {
      const end = closingQuote(text, at, c, c === '`' ? 'standard' : dialect);
      if (end < 0) break;
      if (c !== '`') pieces.push({ start: at, end, escapes: dialect, quote: c });
      at = end + 1;
    }
  }
  if (last) return { pieces, upTo: text.length, state: { copying } };
  return { pieces: pieces.slice(0, safePieces), upTo: safe, state: safeState };
}

/** Where the string that begins at `at` ends; -1 when it does not. */
function closingQuote(text: string, at: number, quote: string, dialect: SqlDialect): number {
  for (let i = at; ;) {
    const next = text.indexOf(quote, i);
    if (next < 0) return -1;
    if (dialect === 'backslash') {
      let slashes = 0;
      while (next - 1 - slashes >= at && text.charCodeAt(next - 1 - slashes) === 92) slashes++;
      if (slashes % 2 === 1) {
        i = next + 1;
        continue;
      }
    }
    if (text[next + 1] === quote) {
      i = next + 2;
      continue;
    }
    return next;
  }
}

/** A value as the database holds it, with the place of each of its characters in the dump. */
export interface SqlValue {
  readonly text: string;
  /** One more than characters: the last is the end. */
  readonly places: Uint32Array;
}

const ESCAPED: Readonly<Record<string, string>> = {
  n: '\n',
  r: '\r',
  t: '\t',
  b: '\b',
  f: '\f',
  v: '\v',
  '0': '\0',
  Z: '\x1a',
};

/** Undoes the escapes of a piece. */
export function readSqlValue(dump: string, piece: SqlPiece): SqlValue {
  const raw = dump.slice(piece.start, piece.end);
  const places = new Uint32Array(raw.length + 1);
  const parts: string[] = [];
  let count = 0;
  for (let i = 0; i < raw.length;) {
    const c = raw[i] as string;
    places[count] = piece.start + i;
    let step = 1;
    let value = c;
    const next = raw[i + 1];
    if (c === '\\' && piece.escapes !== 'standard' && next !== undefined) {
      value = ESCAPED[next] ?? next;
      step = 2;
    } else if (c === piece.quote && next === piece.quote) step = 2;
    parts.push(value);
    count++;
    i += step;
  }
  places[count] = piece.end;
  return { text: parts.join(''), places: places.subarray(0, count + 1) };
}
