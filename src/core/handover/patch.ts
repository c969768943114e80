import { applyEdits, type Edit } from '../fixes/edits';

/** Lines of a diff that stay as they are around each change. */
const CONTEXT = 3;

/** Stretches of whole lines that edits touch; `from` is a line counted from 0, `to` the one behind the last. */
interface Touched {
  from: number;
  to: number;
  readonly edits: Edit[];
}

/**
 * Edits of one file as a unified diff that `git apply` takes; empty where they change nothing. Lines end where the file
 * ends them ("\n", a "\r" before it stays with the line).
 * @param path with "/" between its parts
 */
export function patchOf(path: string, source: string, edits: readonly Edit[]): string {
  const starts = [0];
  for (let at = source.indexOf('\n'); at >= 0; at = source.indexOf('\n', at + 1))
    if (at + 1 < source.length) starts.push(at + 1);
  const startOf = (line: number) => starts[line] ?? source.length;
  const changes = touchedLines(starts, edits).flatMap(({ from, to, edits: own }) => {
    const before = source.slice(startOf(from), startOf(to));
    const offset = startOf(from);
    const moved = own.map((e) => ({ ...e, start: e.start - offset, end: e.end - offset }));
    const after = applyEdits(before, moved);
    return after === before ? [] : [changedLines(from, to, linesOf(before), linesOf(after))];
  });
  let out = '';
  let shift = 0;
  for (let i = 0; i < changes.length;) {
    const first = changes[i] as (typeof changes)[number];
    let last = first;
    const from = Math.max(0, first.from - CONTEXT);
    let body = '';
    let added = 0;
    let at = from;
    const kept = (until: number) => {
      for (; at < until; at++) body += marked(' ', source.slice(startOf(at), startOf(at + 1)));
    };
    for (; i < changes.length; i++) {
      const next = changes[i] as (typeof changes)[number];
      if (next !== first && next.from - last.to > 2 * CONTEXT) break;
      kept(next.from);
      for (const line of next.before) body += marked('-', line);
      for (const line of next.after) body += marked('+', line);
      added += next.after.length - next.before.length;
      at = next.to;
      last = next;
    }
    kept(Math.min(starts.length, last.to + CONTEXT));
    const length = at - from;
    out += `@@ -${from + 1},${length} +${from + 1 + shift},${length + added} @@\n${body}`;
    shift += added;
  }
  return out === '' ? '' : `--- a/${path}\n+++ b/${path}\n${out}`;
}

/** Without the lines at either end that stay as they are. */
function changedLines(from: number, to: number, before: string[], after: string[]) {
  let [first, last] = [0, 0];
  const least = Math.min(before.length, after.length);
  while (first < least && before[first] === after[first]) first++;
  while (last < least - first && before.at(-1 - last) === after.at(-1 - last)) last++;
  return {
    from: from + first,
    to: to - last,
    before: before.slice(first, before.length - last),
    after: after.slice(first, after.length - last),
  };
}

/** Edits by the lines that they touch; those that share a line go together. */
function touchedLines(starts: readonly number[], edits: readonly Edit[]): Touched[] {
  const lineAt = (offset: number): number => {
    let [low, high] = [0, starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((starts[middle] ?? 0) <= offset) low = middle;
      else high = middle - 1;
    }
    return low;
  };
  const out: Touched[] = [];
  for (const edit of [...edits].sort((a, b) => a.start - b.start || a.end - b.end)) {
    const from = lineAt(edit.start);
    const to = lineAt(Math.max(edit.start, edit.end - 1)) + 1;
    const open = out.at(-1);
    if (open && from < open.to) {
      open.to = Math.max(open.to, to);
      open.edits.push(edit);
    } else out.push({ from, to, edits: [edit] });
  }
  return out;
}

/** A text in lines, each with its end. */
const linesOf = (text: string): string[] => text.match(/[^\n]*\n|[^\n]+$/g) ?? [];

const marked = (mark: string, line: string): string =>
  mark + line + (line.endsWith('\n') ? '' : '\n\\ No newline at end of file\n');
