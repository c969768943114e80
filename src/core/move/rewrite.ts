import type { MentionFinder, MentionForm, TextKind } from './mentions';
import { keepLengths, type TextChange } from './serialized';
import { readSqlValue, type SqlPiece } from './sql';

/** A place in a file, as it is shown. */
export interface MovePlace {
  /** Offset in the text at hand. */
  readonly at: number;
  readonly form: MentionForm;
  readonly before: string;
  /** Undefined where it stays. */
  readonly after?: string;
  readonly refused?: string;
}

/** What a rewrite does to a text. */
export interface Rewrite {
  /** In order, without overlaps: addresses, and lengths of serialised strings. */
  readonly changes: readonly TextChange[];
  readonly places: readonly MovePlace[];
  /** Serialised strings whose length was wrong before. */
  readonly broken: number;
}

/** Rewrites a text that is one value: a file that is no dump. */
export function rewriteText(text: string, kind: TextKind, finder: MentionFinder): Rewrite {
  const mentions = finder.find(text, kind);
  const { changes, broken } = keepLengths(
    text,
    mentions.flatMap((m) => (m.replacement === undefined ? [] : [{ start: m.start, end: m.end, text: m.replacement }])),
  );
  return {
    changes,
    broken,
    places: mentions.map((m) => ({
      at: m.start,
      form: m.form,
      before: m.text,
      after: m.replacement,
      refused: m.refused,
    })),
  };
}

/** Rewrites the values of a dump. */
export function rewriteSql(text: string, pieces: readonly SqlPiece[], finder: MentionFinder): Rewrite {
  const changes: TextChange[] = [];
  const places: MovePlace[] = [];
  let broken = 0;
  if (!finder.mayHold(text)) return { changes, places, broken };
  for (const piece of pieces) {
    if (!finder.mayHold(text.slice(piece.start - piece.quote.length, piece.end))) continue;
    const value = readSqlValue(text, piece);
    const own = rewriteText(value.text, 'value', finder);
    const at = (i: number) => value.places[i] ?? piece.end;
    for (const c of own.changes) {
      // What was escaped in the dump stays so: only the characters that differ are changed.
      const raw = text.slice(at(c.start), at(c.end));
      changes.push({ start: at(c.start), end: at(c.end), text: escapeLike(raw, c.text, piece) });
    }
    for (const p of own.places) places.push({ ...p, at: at(p.at) });
    broken += own.broken;
  }
  return { changes, places, broken };
}

/** A new value with the escapes of the dump: addresses hold nothing but backslashes that have to be escaped. */
function escapeLike(raw: string, value: string, piece: SqlPiece): string {
  if (piece.escapes === 'standard') return value;
  // A dump may escape slashes that it does not have to; then the new text does so too.
  const slash = raw.includes('\\/') && !raw.includes('\\\\/') ? '\\/' : '/';
  return value.replaceAll('\\', '\\\\').replaceAll('/', slash);
}
