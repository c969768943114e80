import type { Finding } from '../../core/checks/finding';
import type { WholeCapture } from '../state/types';

/** What stands beside a line of the source: findings, and what the bench makes of it. */
export interface LineMark {
  /** 1-based. */
  readonly line: number;
  readonly findings: readonly Pick<Finding, 'id' | 'title'>[];
  /** Lines that the bench puts in the place of this one; undefined when it leaves it alone. */
  readonly after?: readonly string[];
}

/** Longest line that is shown whole. */
const LONGEST = 2000;

/** Marks of the page's own source, by line; a pure function of the capture and the chosen fixes. */
export function lineMarks(
  view: {
    readonly row: Pick<WholeCapture['row'], 'page'>;
    readonly findings: readonly Pick<Finding, 'id' | 'title' | 'evidence'>[];
    readonly fixes: readonly Pick<WholeCapture['fixes'][number], 'group' | 'changes'>[];
  },
  chosen: readonly string[],
): LineMark[] {
  const marks = new Map<number, { findings: LineMark['findings'][number][]; after?: readonly string[] }>();
  const at = (line: number) => {
    const known = marks.get(line) ?? { findings: [] };
    marks.set(line, known);
    return known;
  };
  for (const f of view.findings) {
    const source = f.evidence.source;
    if (source?.url === view.row.page) at(source.line).findings.push({ id: f.id, title: f.title });
  }
  for (const fix of view.fixes.filter((x) => chosen.includes(x.group)))
    for (const c of fix.changes) if (c.url === view.row.page) at(c.line).after = c.after.split('\n').map(cutLine);
  return [...marks].map(([line, m]) => ({ line, ...m })).sort((a, b) => a.line - b.line);
}

/** A line as shown: very long ones are cut, and say so. */
export function cutLine(text: string): string {
  return text.length > LONGEST
    ? `${text.slice(0, LONGEST)} … (${text.length.toLocaleString('en-GB')} characters)`
    : text;
}

/** The line to look at first: the one asked for, else the first that the bench changes, else the first with a finding. */
export function firstLine(marks: readonly LineMark[], asked: number | undefined): number | undefined {
  return asked ?? marks.find((m) => m.after)?.line ?? marks.find((m) => m.findings.length > 0)?.line;
}
