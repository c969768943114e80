import { applyFixes } from '../fixes/applyFixes';
import type { Fix } from '../fixes/fix';
import type { Link } from '../load/graph';
import { middleRange, PERTURBATIONS, withModelError, type Range } from '../load/range';
import type { Milestones } from '../load/replay';
import { samplesSteps } from './samples';
import { finished, type Steps } from './steps';
import { averageWith, fixesByPage, milestonesWith, type Average } from './averages';
import { groupFixes, meanShare, type FixGroup, type PlanPage } from './staircase';
import { OVERLAP_MS } from './thresholds';

/** What one group of fixes changes, in ms of the average hero paint; negative is a gain. */
export interface GroupEffect {
  readonly id: string;
  /** On its own, and on top of those chosen before it. */
  readonly aloneMs: number;
  readonly addedMs: number;
  /** The group chosen before it that already saves most of what it would save alone. */
  readonly coveredBy?: { readonly id: string; readonly ms: number };
}

/** The whole bench as one forecast over pages, with what each group adds. */
export interface BenchFigures {
  readonly now: Average;
  readonly after: Average;
  readonly groups: readonly GroupEffect[];
  /** Milestones of each page, in the order of the pages. */
  readonly pages: readonly { readonly now: Milestones; readonly after: Milestones }[];
}

/** Fixes of the groups with these ids. */
export function fixesOfGroups(groups: readonly FixGroup[], ids: readonly string[]): Fix[] {
  const wanted = new Set(ids);
  const byId = new Map(groups.flatMap((g) => (wanted.has(g.id) ? [[g.id, g.fixes] as const] : [])));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

/**
 * Forecasts all fixes of the chosen groups together. `addedMs` is what a group wins on top of those
 * chosen before it, `aloneMs` what it wins alone: the difference is overlap.
 */
export function benchFigures(pages: readonly PlanPage[], ids: readonly string[], link: Link): BenchFigures {
  const groups = groupFixes(pages);
  const before = pages.map((p) => milestonesWith(p.graph, [], link));
  const mean = (list: readonly Milestones[]): Average => {
    const n = Math.max(1, list.length);
    const sum = (pick: (m: Milestones) => number) => list.reduce((s, m) => s + pick(m), 0) / n;
    return {
      lcpMs: sum((m) => m.lcpMs),
      fcpMs: sum((m) => m.fcpMs),
      loadMs: sum((m) => m.loadMs),
      bytes: sum((m) => m.bytes),
    };
  };
  const now = mean(before);
  const fixes: Fix[] = [];
  let at = now.lcpMs;
  const out: GroupEffect[] = [];
  for (const id of ids) {
    const own = fixesOfGroups(groups, [id]);
    if (own.length === 0) continue;
    fixes.push(...own);
    const withIt = averageWith(pages, fixes, link).lcpMs;
    const aloneMs = averageWith(pages, own, link).lcpMs - now.lcpMs;
    const addedMs = withIt - at;
    const earlier = out.map((g) => g.id);
    const coveredBy = addedMs - aloneMs > OVERLAP_MS ? coverOf(pages, groups, own, earlier, aloneMs, link) : undefined;
    out.push({ id, aloneMs, addedMs, ...(coveredBy && { coveredBy }) });
    at = withIt;
  }
  const byPage = fixesByPage(fixes);
  const after = pages.map((p) => milestonesWith(p.graph, byPage.get(p.graph.page) ?? [], link));
  return {
    now,
    after: mean(after),
    groups: out,
    pages: before.map((m, i) => ({ now: m, after: after[i] as Milestones })),
  };
}

/** Of the earlier groups the one on top of which a group wins least, and how much less than alone. */
function coverOf(
  pages: readonly PlanPage[],
  groups: readonly FixGroup[],
  own: readonly Fix[],
  earlier: readonly string[],
  aloneMs: number,
  link: Link,
): GroupEffect['coveredBy'] {
  let best: { id: string; ms: number } | undefined;
  for (const id of earlier) {
    const other = fixesOfGroups(groups, [id]);
    const onTop = averageWith(pages, [...other, ...own], link).lcpMs - averageWith(pages, other, link).lcpMs;
    if (onTop - aloneMs > (best?.ms ?? OVERLAP_MS)) best = { id, ms: onTop - aloneMs };
  }
  return best;
}

/** Ranges of what each chosen group changes: alone, and on top of those before it. */
export interface GroupRange {
  readonly id: string;
  readonly alone: Range;
  readonly added: Range;
}

/** Draws for the ranges of single groups: fewer than for the whole. */
const GROUP_DRAWS = 12;

/** The 10th to the 90th percentile of what each group of a bench changes; the estimate itself is always inside. */
export function* groupRangesSteps(pages: readonly PlanPage[], figures: BenchFigures, link: Link): Steps<GroupRange[]> {
  const groups = groupFixes(pages);
  const base = yield* averageDraws(pages, [], link);
  const fixes: Fix[] = [];
  let before = base;
  const out: GroupRange[] = [];
  for (const { id, aloneMs, addedMs } of figures.groups) {
    const own = fixesOfGroups(groups, [id]);
    fixes.push(...own);
    const after = yield* averageDraws(pages, fixes, link);
    const alone = yield* averageDraws(pages, own, link);
    const range = (from: readonly number[], to: readonly number[], estimate: number): Range => {
      const changes = to.map((v, i) => v - (from[i] ?? 0));
      const [low, high] = middleRange(withModelError(changes, figures.now.lcpMs, pages.length, meanShare(pages)));
      return [Math.min(low, estimate), Math.max(high, estimate)];
    };
    out.push({ id, alone: range(base, alone, aloneMs), added: range(before, after, addedMs) });
    before = after;
  }
  return out;
}

/** The same at once. */
export const groupRanges = (pages: readonly PlanPage[], figures: BenchFigures, link: Link): GroupRange[] =>
  finished(groupRangesSteps(pages, figures, link));

/** Average hero paint of each draw. */
function* averageDraws(pages: readonly PlanPage[], fixes: readonly Fix[], link: Link): Steps<number[]> {
  const sums = new Array<number>(GROUP_DRAWS).fill(0);
  const own = fixesByPage(fixes);
  for (const page of pages) {
    const graph = applyFixes(page.graph, own.get(page.graph.page) ?? []);
    const drawn = yield* samplesSteps(graph, link, GROUP_DRAWS);
    drawn.forEach((m, i) => (sums[i] = (sums[i] ?? 0) + m.lcpMs / pages.length));
  }
  return sums;
}

/** Ranges of the averages after all chosen fixes: estimate now plus the 10th to 90th percentile of the change. */
export function* benchRangeSteps(
  pages: readonly PlanPage[],
  ids: readonly string[],
  link: Link,
  figures: BenchFigures,
): Steps<{ lcpMs: Range; fcpMs: Range; bytes: Range }> {
  const fixes = fixesOfGroups(groupFixes(pages), ids);
  const n = Math.max(1, pages.length);
  const own = fixesByPage(fixes);
  const changes = PERTURBATIONS.map(() => ({ lcpMs: 0, fcpMs: 0 }));
  for (const { graph } of pages) {
    const fixed = applyFixes(graph, own.get(graph.page) ?? []);
    // A page that no fix concerns changes in no draw.
    if (fixed === graph) continue;
    const before = yield* samplesSteps(graph, link);
    const after = yield* samplesSteps(fixed, link);
    changes.forEach((change, i) => {
      change.lcpMs += ((after[i]?.lcpMs ?? 0) - (before[i]?.lcpMs ?? 0)) / n;
      change.fcpMs += ((after[i]?.fcpMs ?? 0) - (before[i]?.fcpMs ?? 0)) / n;
    });
  }
  const around = (now: number, after: number, values: number[]): Range => {
    const [low, high] = middleRange(values);
    return [Math.min(after, now + low), Math.max(after, now + high)];
  };
  return {
    lcpMs: around(
      figures.now.lcpMs,
      figures.after.lcpMs,
      withModelError(
        changes.map((c) => c.lcpMs),
        figures.now.lcpMs,
        n,
        meanShare(pages),
      ),
    ),
    fcpMs: around(
      figures.now.fcpMs,
      figures.after.fcpMs,
      withModelError(
        changes.map((c) => c.fcpMs),
        figures.now.fcpMs,
        n,
        meanShare(pages),
      ),
    ),
    bytes: [figures.after.bytes, figures.after.bytes],
  };
}

/** The same at once. */
export const benchRange = (
  ...about: Parameters<typeof benchRangeSteps>
): { lcpMs: Range; fcpMs: Range; bytes: Range } => finished(benchRangeSteps(...about));
