import { applyEdits, type Edit } from '../fixes/edits';
import { linesOf, UnifiedDiff } from '../move/unifiedDiff';

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
  let out = '';
  const diff = new UnifiedDiff(path, (text) => (out += text));
  let at = 0;
  const kept = (until: number) => {
    for (; at < until; at++) {
      const line = source.slice(startOf(at), startOf(at + 1));
      diff.add(line, line);
    }
  };
  for (const { from, to, edits: own } of touchedLines(starts, edits)) {
    const offset = startOf(from);
    const before = source.slice(offset, startOf(to));
    const moved = own.map((e) => ({ ...e, start: e.start - offset, end: e.end - offset }));
    const change = changedLines(linesOf(before), linesOf(applyEdits(before, moved)));
    kept(from + change.first);
    if (change.before === change.after) continue;
    diff.add(change.before, change.after);
    at = to - change.last;
  }
  kept(source === '' ? 0 : starts.length);
  diff.end();
  return out;
}

/** What changes, without the lines at either end that stay as they are; and how many those are. */
function changedLines(before: readonly string[], after: readonly string[]) {
  let [first, last] = [0, 0];
  const least = Math.min(before.length, after.length);
  while (first < least && before[first] === after[first]) first++;
  while (last < least - first && before.at(-1 - last) === after.at(-1 - last)) last++;
  const middle = (lines: readonly string[]) => lines.slice(first, lines.length - last).join('');
  return { first, last, before: middle(before), after: middle(after) };
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
