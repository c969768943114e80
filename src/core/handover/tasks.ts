import type { ServerChange } from '../fixes/serverChange';
import type { LineChange } from '../fixes/edits';
import type { Range } from '../load/range';
import { effectText, timeRangeText, timeText } from './effectText';
import { FIX_STATES, type FixState } from '../plan/plan';

/** One fix of a plan as a task for whoever does it. */
export interface Task {
  readonly title: string;
  readonly pages: readonly string[];
  /** Minutes. */
  readonly effort: number;
  readonly owner: string;
  readonly due: string;
  readonly state: FixState;
  /** Change of the average hero paint in ms: alone and on top of the tasks before it, with ranges. */
  readonly aloneMs: number;
  readonly addedMs: number;
  readonly aloneRange?: Range;
  readonly addedRange?: Range;
  /** Title of the task that already saves most of it. */
  readonly coveredBy?: string;
  /** What its proof in a real browser found. */
  readonly proof?: string;
  readonly changes: readonly LineChange[];
  readonly server: readonly ServerChange[];
  /** What the checks that found it look for when it is done. */
  readonly fixedWhen: readonly string[];
}

/** What tasks are about: for the head of the document. */
export interface TaskHead {
  readonly site: string;
  readonly plan: string;
  readonly visitor: string;
  readonly pages: number;
  readonly day: string;
  readonly nowMs: number;
  readonly afterMs: number;
  readonly range: Range;
}

const stateName = (state: FixState) => FIX_STATES.find((s) => s.id === state)?.name ?? state;

/** Places of one change that are shown; more of them are counted. */
const MOST_CHANGES = 6;

/** Tasks as a Markdown document (CommonMark): one section each, with place, change and how to tell that it worked. */
export function tasksMarkdown(head: TaskHead, tasks: readonly Task[]): string {
  const lines = [
    `# ${inline(head.plan)}: ${inline(head.site)}`,
    '',
    `Sweep of ${head.day}, ${head.pages} ${head.pages === 1 ? 'page' : 'pages'}, ${inline(head.visitor)}. ` +
      `Hero paint (LCP) of an average page: ${timeText(head.nowMs)} now, ` +
      `${timeText(head.afterMs)} (${timeRangeText(head.range)}) with all tasks, by forecast.`,
    '',
  ];
  tasks.forEach((t, i) => lines.push(...section(t, i + 1)));
  return lines.join('\n');
}

function section(t: Task, n: number): string[] {
  const facts = [
    t.owner && `Owner: ${inline(t.owner)}`,
    t.due && `Due: ${t.due}`,
    `State: ${stateName(t.state)}`,
    `about ${t.effort} min`,
  ].filter(Boolean);
  const covered = t.coveredBy ? `; most of it is already saved by “${inline(t.coveredBy)}”` : '';
  return [
    `## ${n}. ${inline(t.title)}`,
    '',
    facts.join(' · '),
    '',
    `Forecast for hero paint (LCP): ${effectText(t.addedMs, t.addedRange)} on top of the tasks before it; alone: ${effectText(t.aloneMs, t.aloneRange)}${covered}.`,
    '',
    ...(t.proof ? [`Proved in a real browser: ${inline(t.proof)}`, ''] : []),
    `Pages: ${t.pages.map((p) => `<${p}>`).join(', ')}`,
    '',
    ...t.changes.slice(0, MOST_CHANGES).flatMap(change),
    ...(t.changes.length > MOST_CHANGES ? [`and ${t.changes.length - MOST_CHANGES} more places like these.`, ''] : []),
    ...(t.server.length > 0 ? [...t.server.map((s) => `- ${serverText(s)}`), ''] : []),
    ...(t.fixedWhen.length > 0 ? ['Done when:', '', ...t.fixedWhen.map((w) => `- ${inline(w)}`), ''] : []),
  ];
}

function change(c: LineChange): string[] {
  const body = [...c.before.split('\n').map((l) => `-${l}`), ...c.after.split('\n').map((l) => `+${l}`)].join('\n');
  // A fence longer than any in the source, which may hold anything.
  const longest = Math.max(2, ...[...body.matchAll(/`+/g)].map((m) => m[0].length));
  const fence = '`'.repeat(longest + 1);
  return [`<${c.url}>, line ${c.line}, column ${c.column}:`, '', `${fence}diff`, body, fence, ''];
}

/** A change outside the source, in words. */
export function serverText(s: ServerChange): string {
  switch (s.do) {
    case 'compress':
      return `Send <${s.url}> compressed (gzip or better).`;
    case 'minify':
      return `Take comments and spaces out of <${s.url}>.`;
    case 'resize':
      return `Re-encode <${s.url}> at ${s.width} × ${s.height} pixels.`;
    case 'copy':
      return `Serve <${s.url}> from <${s.to}>.`;
    case 'convert':
      return `Offer <${s.url}> as WOFF 2 under <${s.to}>.`;
    case 'header':
      return `Send \`${s.name}: ${s.value}\` with <${s.url}>.`;
    case 'answer':
      return `Let <${s.url}> be answered within ${Math.round(s.waitMs)} ms.`;
  }
}

/** Text of others inside a paragraph: nothing in it may become markup. */
const inline = (text: string) => text.replace(/[\\`*_[\]<>#|~]/g, '\\$&').replace(/\s+/g, ' ');

/** Columns of a table of tasks. */
export const TASK_COLUMNS = [
  'task',
  'owner',
  'due',
  'state',
  'minutes',
  'pages',
  'hero paint, ms: added',
  'added, low',
  'added, high',
  'hero paint, ms: alone',
  'covered by',
  'proof',
  'place',
  'before',
  'after',
  'outside the source',
  'done when',
] as const;

/** Tasks as rows of a table. */
export function taskRows(tasks: readonly Task[]): (string | number | undefined)[][] {
  return tasks.map((t) => {
    return [
      t.title,
      t.owner,
      t.due,
      stateName(t.state),
      t.effort,
      t.pages.length,
      Math.round(t.addedMs),
      t.addedRange && Math.round(t.addedRange[0]),
      t.addedRange && Math.round(t.addedRange[1]),
      Math.round(t.aloneMs),
      t.coveredBy,
      t.proof,
      t.changes.map((c) => `${c.url}:${c.line}:${c.column}`).join('\n') || undefined,
      t.changes.map((c) => c.before.trim()).join('\n') || undefined,
      t.changes.map((c) => c.after.trim()).join('\n') || undefined,
      t.server.map(serverText).join(' '),
      t.fixedWhen.join(' '),
    ];
  });
}
