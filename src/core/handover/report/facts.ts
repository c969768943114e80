import { CHECKS } from '../../checks';
import type { Finding } from '../../checks/finding';
import { fixChanges, fixKind } from '../../fixes';
import type { Fix, OfferContext } from '../../fixes/fix';
import type { Range } from '../../load/range';
import type { LoadGraph } from '../../load/graph';
import { deviceOf, type Visitor } from '../../load/visitors';
import { benchFigures, groupRanges } from '../../plan/bench';
import { milestonesWith } from '../../plan/averages';
import { buildStaircase, type FixGroup, type Stair } from '../../plan/staircase';
import type { Task, TaskHead } from '../tasks';
import type { ReportExtras } from './extras';

/** Who a report is for. */
export const READERS = ['owner', 'fixer', 'auditor'] as const;
export type Reader = (typeof READERS)[number];

/** One page of a report, examined. */
export interface ReportPage {
  readonly page: string;
  readonly title: string;
  readonly device: 'phone' | 'desktop';
  readonly recordedAt: string;
  readonly graph: LoadGraph;
  readonly fixes: readonly Fix[];
  readonly findings: readonly Finding[];
  /** Reads what its fixes are written from: source and pictures, too large to hold for many pages at a time. */
  open(): Promise<OfferContext>;
  /** What was not examined, and why. */
  readonly notes: readonly string[];
  /** Its first screen, JPEG or PNG. */
  readonly picture?: Uint8Array;
}

/** Who can make a change. */
export type Hands = 'markup' | 'styles' | 'server' | 'pictures' | 'third party';

/** One fix of a report: a stair with its task. */
export interface ReportFix extends Task {
  /** Id of its group of fixes. */
  readonly group: string;
  readonly kind: Fix['kind'];
  readonly hands: Hands;
  /** Hero paint of the average page after this fix and all before it, in ms, with its range. */
  readonly afterMs: number;
  readonly afterRange: Range;
  readonly worthwhile: boolean;
}

/** Everything that the reports of a capture or sweep say; all readers get theirs from the same. */
export interface ReportFacts extends ReportExtras {
  readonly head: TaskHead;
  readonly visitor: Visitor;
  readonly pages: readonly (ReportPage & {
    readonly now: { readonly fcpMs: number; readonly lcpMs: number; readonly bytes: number };
    readonly after: { readonly fcpMs: number; readonly lcpMs: number; readonly bytes: number };
  })[];
  readonly fixes: readonly ReportFix[];
  /** Findings of harm beyond time, one for each cause, the worst first, with the pages that have it. */
  readonly safety: readonly { readonly finding: Finding; readonly pages: readonly string[] }[];
  readonly notExamined: readonly { readonly what: string; readonly why: string }[];
}

const HANDS: Readonly<Record<Fix['kind'], Hands>> = {
  'hero-eager': 'markup',
  'hero-priority': 'markup',
  'hero-preload': 'markup',
  'offscreen-lazy': 'markup',
  'script-defer': 'markup',
  'script-async': 'markup',
  'content-in-html': 'markup',
  preconnect: 'markup',
  'font-preload': 'markup',
  'http-upgrade': 'markup',
  dimensions: 'markup',
  'style-nonblocking': 'styles',
  'style-inline-critical': 'styles',
  'style-remove-unused': 'styles',
  'import-flatten': 'styles',
  'font-swap': 'styles',
  'font-convert': 'styles',
  'text-compress': 'server',
  minify: 'server',
  'redirect-skip': 'server',
  'cache-policy': 'server',
  hsts: 'server',
  'server-faster': 'server',
  'self-host': 'server',
  'image-resize': 'pictures',
};

/**
 * Puts together what a report says for one visitor, of the pages that were recorded with that visitor's device. Pages are
 * opened one after the other.
 */
export async function reportFacts(
  all: readonly ReportPage[],
  about: { readonly site: string; readonly day: string },
  visitor: Visitor,
  extras: ReportExtras = {},
): Promise<ReportFacts> {
  const fitting = all.filter((p) => p.device === deviceOf(visitor));
  const pages = fitting.length > 0 ? fitting : all;
  const stairs = buildStaircase(pages, visitor);
  const best = stairs.stairs.slice(0, Math.max(0, stairs.paying));
  const bestFixes = best.flatMap((s) => s.group.fixes);
  const last = best.at(-1);
  const chosen = benchFigures(
    pages,
    stairs.stairs.map((s) => s.group.id),
    visitor,
  );
  const added = new Map(groupRanges(pages, chosen, visitor).map((r) => [r.id, r.added]));
  const tasks = await writtenTasks(
    pages,
    stairs.stairs.map((s) => s.group.id),
  );
  const figures = (graph: LoadGraph, fixes: readonly Fix[]) => {
    const { fcpMs, lcpMs, bytes } = milestonesWith(graph, fixes, visitor);
    return { fcpMs, lcpMs, bytes };
  };
  return {
    ...extras,
    head: {
      site: about.site,
      plan: 'Report',
      visitor: visitor.name,
      pages: pages.length,
      day: about.day,
      nowMs: stairs.nowMs,
      afterMs: last?.lcpMs ?? stairs.nowMs,
      range: last?.range ?? [stairs.nowMs, stairs.nowMs],
    },
    visitor,
    pages: pages
      .map((p) => ({
        ...p,
        now: figures(p.graph, []),
        after: figures(
          p.graph,
          bestFixes.filter((f) => f.page === p.graph.page),
        ),
      }))
      .sort((a, b) => b.now.lcpMs - a.now.lcpMs),
    fixes: stairs.stairs.map((s, i) => reportFix(s, added.get(s.group.id), i < stairs.paying, tasks.get(s.group.id))),
    safety: safetyOf(pages),
    notExamined: pages.flatMap((p) => p.notes.map((why) => ({ what: p.page, why }))),
  };
}

/** What a group of fixes has to change on all pages, each change once, and the checks that then pass. */
interface WrittenTask {
  readonly changes: Map<string, Task['changes'][number]>;
  readonly server: Map<string, Task['server'][number]>;
  readonly checks: Set<string>;
}

/** The changes of groups of fixes, by the group. */
async function writtenTasks(
  pages: readonly ReportPage[],
  groups: readonly string[],
): Promise<ReadonlyMap<string, WrittenTask>> {
  const out = new Map<string, WrittenTask>(
    groups.map((g) => [g, { changes: new Map(), server: new Map(), checks: new Set() }]),
  );
  for (const page of pages) {
    if (!page.fixes.some((f) => out.has(f.group))) continue;
    const context = await page.open();
    for (const fix of page.fixes) {
      const task = out.get(fix.group);
      if (!task) continue;
      for (const c of fixChanges(fix, context)) task.changes.set(`${c.url}:${c.line}:${c.after}`, c);
      for (const s of fixKind(fix.kind)?.onServer?.(fix, context) ?? []) task.server.set(JSON.stringify(s), s);
      for (const f of page.findings) if (fix.findings.includes(f.id)) task.checks.add(f.check);
    }
  }
  return out;
}

function reportFix(stair: Stair, addedRange: Range | undefined, worthwhile: boolean, task?: WrittenTask): ReportFix {
  const { group } = stair;
  return {
    group: group.id,
    title: group.title,
    pages: [...new Set(group.fixes.map((f) => f.page))],
    effort: group.effort,
    owner: '',
    due: '',
    state: 'open',
    aloneMs: -stair.aloneMs,
    addedMs: -stair.wonMs,
    addedRange,
    changes: [...(task?.changes.values() ?? [])],
    server: [...(task?.server.values() ?? [])],
    fixedWhen: CHECKS.filter((c) => task?.checks.has(c.id)).map((c) => c.fixedWhen),
    kind: group.kind,
    hands: handsOf(group),
    afterMs: stair.lcpMs,
    afterRange: stair.range,
    worthwhile,
  };
}

const handsOf = (group: FixGroup): Hands => (group.fixes.some((f) => f.thirdParty) ? 'third party' : HANDS[group.kind]);

const RANK: Readonly<Record<Finding['harm'], number>> = { broken: 0, exposed: 1, slow: 2, tidy: 3 };

function safetyOf(pages: readonly ReportPage[]): ReportFacts['safety'] {
  const byCause = new Map<string, { finding: Finding; pages: Set<string> }>();
  for (const { page, findings } of pages)
    for (const finding of findings) {
      if (finding.harm !== 'broken' && finding.harm !== 'exposed') continue;
      const known = byCause.get(finding.cause) ?? { finding, pages: new Set() };
      known.pages.add(page);
      byCause.set(finding.cause, known);
    }
  return [...byCause.values()]
    .map((c) => ({ finding: c.finding, pages: [...c.pages] }))
    .sort((a, b) => RANK[a.finding.harm] - RANK[b.finding.harm] || b.pages.length - a.pages.length);
}
