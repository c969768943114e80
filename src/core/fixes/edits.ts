import type { SourceElement } from '../source/document';

/** A change of one stretch of a source file. */
export interface Edit {
  readonly url: string;
  readonly start: number;
  readonly end: number;
  readonly text: string;
  /** Of several insertions at one place, which comes first; 0 if not stated. */
  readonly rank?: number;
}

/** Sets an attribute: replaces it where it stands, else adds it behind the tag name. */
export function setAttribute(url: string, element: SourceElement, name: string, value: string): Edit {
  const at = element.attributePlaces.get(name);
  const written = `${name}="${value.replace(/&/g, '&amp;').replace(/"/g, '&quot;')}"`;
  if (at) return { url, start: at.start, end: at.end, text: written };
  const behindName = element.start + 1 + element.tag.length;
  return { url, start: behindName, end: behindName, text: ' ' + written };
}

/** Removes an attribute with the space before it; nothing when it is not there. */
export function removeAttribute(url: string, source: string, element: SourceElement, name: string): Edit[] {
  const at = element.attributePlaces.get(name);
  if (!at) return [];
  let start = at.start;
  while (start > element.start && /\s/.test(source[start - 1] ?? '')) start--;
  return [{ url, start, end: at.end, text: '' }];
}

/** Inserts text at an offset. */
export function insertAt(url: string, offset: number, text: string, rank = 0): Edit {
  return { url, start: offset, end: offset, text, rank };
}

/**
 * Applies edits of one file. The same edit twice counts once; of two that overlap the first stays.
 * The order in which edits are given does not change the result.
 */
export function applyEdits(source: string, edits: readonly Edit[]): string {
  const ordered = [...edits].sort(
    (a, b) =>
      a.start - b.start ||
      a.end - b.end ||
      (a.rank ?? 0) - (b.rank ?? 0) ||
      (a.text < b.text ? -1 : a.text > b.text ? 1 : 0),
  );
  let out = '';
  let at = 0;
  let last: Edit | undefined;
  for (const edit of ordered) {
    if (last && edit.start === last.start && edit.end === last.end && edit.text === last.text) continue;
    if (edit.start < at) continue;
    out += source.slice(at, edit.start) + edit.text;
    at = edit.end;
    last = edit;
  }
  return out + source.slice(at);
}

/** Lines that edits change, before and after, for showing. */
export interface LineChange {
  readonly url: string;
  readonly line: number;
  /** Of the first change in the line, from 1. */
  readonly column: number;
  /** Of the first change, in UTF-16 code units from the start of the file. */
  readonly offset: number;
  readonly before: string;
  readonly after: string;
}

/** Longer stretches are cut to what is around the first change: minified files have one line. */
const LONGEST_SHOWN = 2000;
const AROUND = 120;

/** Groups edits by the source lines they touch, in order; very long ones are cut for showing. */
export function lineChanges(url: string, source: string, edits: readonly Edit[]): LineChange[] {
  const ranges: { start: number; end: number; edits: Edit[] }[] = [];
  for (const edit of [...edits].sort((a, b) => a.start - b.start)) {
    const start = source.lastIndexOf('\n', Math.max(0, edit.start - 1)) + 1;
    const next = source.indexOf('\n', edit.end);
    const end = next < 0 ? source.length : next;
    const open = ranges.at(-1);
    if (open && start <= open.end) {
      open.edits.push(edit);
      open.end = Math.max(open.end, end);
    } else ranges.push({ start, end, edits: [edit] });
  }
  let line = 1;
  let counted = 0;
  return ranges.map((r) => {
    for (let at = source.indexOf('\n', counted); at >= 0 && at < r.start; at = source.indexOf('\n', counted)) {
      line++;
      counted = at + 1;
    }
    const before = source.slice(r.start, r.end);
    const after = applyEdits(
      before,
      r.edits.map((e) => ({ ...e, start: e.start - r.start, end: e.end - r.start })),
    );
    const offset = (r.edits[0] as Edit).start;
    const column = offset - (source.lastIndexOf('\n', offset - 1) + 1) + 1;
    return { url, line, column, offset, ...cut(before, after, offset - r.start, r.edits.length) };
  });
}

function cut(before: string, after: string, first: number, count: number): { before: string; after: string } {
  if (before.length <= LONGEST_SHOWN && after.length <= LONGEST_SHOWN) return { before, after };
  const from = Math.max(0, first - AROUND);
  const part = (text: string) =>
    `${from > 0 ? '… ' : ''}${text.slice(from, from + 4 * AROUND)}${text.length > from + 4 * AROUND ? ` … (${count === 1 ? '1 change' : `${count} changes`}, ${text.length.toLocaleString('en-GB')} characters in all)` : ''}`;
  return { before: part(before), after: part(after) };
}
