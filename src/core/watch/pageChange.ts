import { diffArrays } from 'diff';
import type { PageSnapshot, TextBlock } from './pageSnapshot';

/** What of a page may change. */
export const PARTS = [
  'status',
  'address',
  'title',
  'description',
  'canonical',
  'robots',
  'language',
  'hero',
  'headings',
  'text',
  'structure',
  'third parties',
  'headers',
] as const;
export type Part = (typeof PARTS)[number];

/** A run of words in a change: kept, or in one of the two only. */
export interface WordRun {
  readonly kind: 'same' | 'removed' | 'added';
  readonly text: string;
}

/** One change of a page between two visits. */
export interface PageChange {
  readonly part: Part;
  /** Path of the block or element, name of the header; empty where there is one of its part only. */
  readonly where: string;
  readonly words: readonly WordRun[];
}

/** What is left aside: a part, and within it a place; none stands for the whole part. */
export interface Muting {
  readonly part: Part;
  readonly where?: string;
}

/** Changes of one page that are kept; more say no more. */
const MOST_CHANGES = 200;
/** The longest edit that is worked out word by word. */
const MOST_EDITS = 2000;

/** Everything that changed from one visit to another and is not left aside. */
export function changesBetween(
  before: PageSnapshot,
  after: PageSnapshot,
  mutings: readonly Muting[] = [],
): PageChange[] {
  const muted = (part: Part, where: string) =>
    mutings.some((m) => m.part === part && (m.where === undefined || m.where === where));
  const out: PageChange[] = [];
  const plain = (part: Part, was: string, is: string, where = '') => {
    if (was !== is) out.push({ part, where, words: wordRuns(was, is) });
  };
  plain('status', String(before.status), String(after.status));
  plain('address', before.finalUrl, after.finalUrl);
  plain('title', before.title, after.title);
  plain('description', before.description, after.description);
  plain('canonical', before.canonical, after.canonical);
  plain('robots', before.robots, after.robots);
  plain('language', before.language, after.language);
  // What an earlier version kept does not tell.
  if (before.hero !== undefined && after.hero !== undefined) plain('hero', before.hero, after.hero);
  listChanges('headings', before.headings, after.headings);
  out.push(...textChanges(before.text, after.text));
  for (const [name, count] of changedCounts(before.structure, after.structure))
    out.push({
      part: 'structure',
      where: name,
      words: [count < 0 ? run('removed', `${-count} × ${name}`) : run('added', `${count} × ${name}`)],
    });
  listChanges('third parties', before.thirdParties, after.thirdParties);
  for (const name of new Set([...Object.keys(before.headers), ...Object.keys(after.headers)]))
    plain('headers', before.headers[name] ?? '', after.headers[name] ?? '', name);
  return out.filter((c) => !muted(c.part, c.where)).slice(0, MOST_CHANGES);

  function listChanges(part: 'headings' | 'third parties', was: readonly string[], is: readonly string[]) {
    for (const p of diffArrays([...was], [...is], { maxEditLength: MOST_EDITS }) ?? [])
      if (p.added || p.removed)
        for (const text of p.value) out.push({ part, where: text, words: [run(p.added ? 'added' : 'removed', text)] });
  }
}

/**
 * What differs between two visits at once changes with every visit, and says nothing: mutings for the places of it.
 * Headings and third parties are left aside by what they say, blocks of text and headers by where they stand.
 */
export function alwaysChanging(first: PageSnapshot, second: PageSnapshot): Muting[] {
  const seen = new Map<string, Muting>();
  for (const { part, where } of changesBetween(first, second)) {
    const muting: Muting = where === '' ? { part } : { part, where };
    seen.set(`${part} ${where}`, muting);
  }
  return [...seen.values()];
}

/** Blocks that changed: those that stand in the same place are compared word by word. */
function textChanges(before: readonly TextBlock[], after: readonly TextBlock[]): PageChange[] {
  const key = (b: TextBlock) => `${b.path}\n${b.text}`;
  const parts = diffArrays(before.map(key), after.map(key), { maxEditLength: MOST_EDITS });
  const change = (where: string, was: string, is: string): PageChange => ({
    part: 'text',
    where,
    words: wordRuns(was, is),
  });
  // Too much for a comparison: the page is another one.
  if (!parts) return [change('', `${before.length} blocks of text`, `${after.length} other blocks of text`)];
  const removed: TextBlock[] = [];
  const added: TextBlock[] = [];
  let i = 0;
  let j = 0;
  for (const p of parts) {
    if (p.removed) removed.push(...before.slice(i, i + p.count));
    if (p.added) added.push(...after.slice(j, j + p.count));
    if (!p.added) i += p.count;
    if (!p.removed) j += p.count;
  }
  const out: PageChange[] = [];
  for (const block of removed) {
    const moved = added.findIndex((b) => b.path === block.path && b.text === block.text);
    const at = moved < 0 ? added.findIndex((b) => b.path === block.path) : moved;
    const [same] = at < 0 ? [] : added.splice(at, 1);
    out.push(change(block.path, block.text, same?.text ?? ''));
  }
  out.push(...added.map((block) => change(block.path, '', block.text)));
  // A block that only moved has not changed.
  return out.filter((c) => c.words.some((w) => w.kind !== 'same'));
}

function changedCounts(
  before: Readonly<Record<string, number>>,
  after: Readonly<Record<string, number>>,
): [string, number][] {
  return [...new Set([...Object.keys(before), ...Object.keys(after)])]
    .map((name): [string, number] => [name, (after[name] ?? 0) - (before[name] ?? 0)])
    .filter(([, n]) => n !== 0)
    .sort(([a], [b]) => (a < b ? -1 : 1));
}

const run = (kind: WordRun['kind'], text: string): WordRun => ({ kind, text });

/** Two texts as runs of words that are in both, in the first only, in the second only. */
export function wordRuns(was: string, is: string): WordRun[] {
  const words = (text: string) => text.split(/(\s+)/).filter((w) => w !== '');
  const parts = diffArrays(words(was), words(is), { maxEditLength: MOST_EDITS });
  if (!parts) return [run('removed', was), run('added', is)];
  return parts.map((p) => run(p.added ? 'added' : p.removed ? 'removed' : 'same', p.value.join('')));
}
