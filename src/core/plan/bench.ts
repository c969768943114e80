import { applyFixes } from '../fixes';
import type { Fix } from '../fixes/fix';
import type { LoadGraph, Link } from '../load/graph';
import { middleRange, PERTURBATIONS, withModelError, type Range } from '../load/range';
import type { Milestones } from '../load/replay';
import { drawsOf } from './draws';
import { averageWith, groupFixes, milestonesWith, type Average, type FixGroup, type PlanPage } from './staircase';

/** The whole bench as one forecast over pages, with what each group adds. */
export interface BenchFigures {
  readonly now: Average;
  readonly after: Average;
  readonly groups: readonly { readonly id: string; readonly aloneMs: number; readonly addedMs: number }[];
  /** Milestones of each page, in the order of the pages. */
  readonly pages: readonly { readonly now: Milestones; readonly after: Milestones }[];
}

/** Fixes of the groups with these ids. */
export function fixesOfGroups(groups: readonly FixGroup[], ids: readonly string[]): Fix[] {
  return ids.flatMap((id) => groups.find((g) => g.id === id)?.fixes ?? []);
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
  const out: { id: string; aloneMs: number; addedMs: number }[] = [];
  for (const id of ids) {
    const own = fixesOfGroups(groups, [id]);
    if (own.length === 0) continue;
    fixes.push(...own);
    const withIt = averageWith(pages, fixes, link).lcpMs;
    out.push({ id, aloneMs: averageWith(pages, own, link).lcpMs - now.lcpMs, addedMs: withIt - at });
    at = withIt;
  }
  const after = pages.map((p) => milestonesWith(p.graph, fixes, link));
  return {
    now,
    after: mean(after),
    groups: out,
    pages: before.map((m, i) => ({ now: m, after: after[i] as Milestones })),
  };
}

/** Ranges of the averages after all chosen fixes: estimate now plus the 10th to 90th percentile of the change. */
export function benchRange(
  pages: readonly PlanPage[],
  ids: readonly string[],
  link: Link,
  figures: BenchFigures,
): { lcpMs: Range; fcpMs: Range; bytes: Range } {
  const fixes = fixesOfGroups(groupFixes(pages), ids);
  const n = Math.max(1, pages.length);
  const fixed = pages.map((p) => applyFixes(p.graph, fixes));
  const changes = PERTURBATIONS.map((_, i) => {
    let lcpMs = 0;
    let fcpMs = 0;
    pages.forEach((p, k) => {
      const before = drawsOf(p.graph, link)[i];
      const after = drawsOf(fixed[k] as LoadGraph, link)[i];
      lcpMs += ((after?.lcpMs ?? 0) - (before?.lcpMs ?? 0)) / n;
      fcpMs += ((after?.fcpMs ?? 0) - (before?.fcpMs ?? 0)) / n;
    });
    return { lcpMs, fcpMs };
  });
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
      ),
    ),
    fcpMs: around(
      figures.now.fcpMs,
      figures.after.fcpMs,
      withModelError(
        changes.map((c) => c.fcpMs),
        figures.now.fcpMs,
        n,
      ),
    ),
    bytes: [figures.after.bytes, figures.after.bytes],
  };
}
