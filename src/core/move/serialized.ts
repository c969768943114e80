/** A change of a text. */
export interface TextChange {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

interface Token {
  /** Place of the digits of the length. */
  readonly digits: readonly [number, number];
  readonly start: number;
  readonly end: number;
  readonly length: number;
}

/**
 * Keeps the lengths of PHP-serialised strings (`s:5:"ferns";`) right: they count bytes, and a string may hold a
 * serialised value of its own, to any depth.
 * @param text bytes, one a character
 * @param changes in order, without overlaps
 * @returns changes with those of the lengths added, in order; and how many lengths were wrong before
 */
export function keepLengths(text: string, changes: readonly TextChange[]): { changes: TextChange[]; broken: number } {
  const tokens: Token[] = [];
  let broken = 0;
  for (const m of text.matchAll(/(?<![a-z0-9])s:(\d{1,10}):"/gi)) {
    const length = Number(m[1]);
    const start = m.index + m[0].length;
    const end = start + length;
    // Only a length that fits is one; anything else is text that looks alike, or was damaged before.
    if (text.startsWith('";', end))
      tokens.push({ digits: [m.index + 2, m.index + 2 + (m[1]?.length ?? 0)], start, end, length });
    else if (changes.some((c) => c.start >= start && c.start < start + Math.max(length, 1))) broken++;
  }
  if (tokens.length === 0) return { changes: [...changes], broken };
  const all: TextChange[] = [...changes];
  // The innermost first: a length that grows by a digit makes the string around it longer.
  for (const token of tokens.sort((a, b) => a.end - a.start - (b.end - b.start))) {
    let grown = 0;
    for (const c of all) if (c.start >= token.start && c.end <= token.end) grown += c.text.length - (c.end - c.start);
    if (grown !== 0) all.push({ start: token.digits[0], end: token.digits[1], text: String(token.length + grown) });
  }
  return { changes: all.sort((a, b) => a.start - b.start), broken };
}

/** A text with changes made. */
export function withChanges(text: string, changes: readonly TextChange[]): string {
  let out = '';
  let at = 0;
  for (const c of changes) {
    out += text.slice(at, c.start) + c.text;
    at = c.end;
  }
  return out + text.slice(at);
}
