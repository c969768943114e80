import { applyFixes } from '../fixes';
import type { Fix } from '../fixes/fix';
import type { LoadGraph, Link } from '../load/graph';
import { middleRange, PERTURBATIONS, type Range } from '../load/range';
import { simulate } from '../load/simulate';

/** A page with the fixes offered for it, ready to be re-enacted. */
export interface PlanPage {
  readonly graph: LoadGraph;
  readonly fixes: readonly Fix[];
}

/** Fixes of one or more pages that are one change. */
export interface FixGroup {
  readonly id: string;
  readonly title: string;
  readonly kind: Fix['kind'];
  readonly fixes: readonly Fix[];
  readonly pages: number;
  /** Minutes: once for the change, not for each page. */
  readonly effort: number;
}

/** One stair: the average after this and all earlier groups. */
export interface Stair {
  readonly group: FixGroup;
  readonly lcpMs: number;
  /** Range of `lcpMs`. */
  readonly range: Range;
  /** Won by this step, and what the same change wins alone. */
  readonly wonMs: number;
  readonly aloneMs: number;
  readonly fcpMs: number;
  readonly bytes: number;
}

export interface Staircase {
  readonly nowMs: number;
  readonly nowFcpMs: number;
  readonly nowBytes: number;
  readonly stairs: readonly Stair[];
}

/** Below this a step is not worth showing as a win, in ms. */
export const STOPS_PAYING_MS = 100;

/** Groups the fixes of pages by the change that makes them. */
export function groupFixes(pages: readonly PlanPage[]): FixGroup[] {
  const groups = new Map<string, Fix[]>();
  for (const page of pages) for (const fix of page.fixes) groups.set(fix.group, [...(groups.get(fix.group) ?? []), fix]);
  return [...groups].map(([id, fixes]) => {
    const first = fixes[0] as Fix;
    const targets = new Set(fixes.map((f) => f.target)).size;
    return {
      id,
      title: groupTitle(first, targets, new Set(fixes.map((f) => f.page)).size),
      kind: first.kind,
      fixes,
      pages: new Set(fixes.map((f) => f.page)).size,
      effort: first.effort + (targets - 1) * 3,
    };
  });
}

function groupTitle(first: Fix, targets: number, pages: number): string {
  if (first.kind === 'text-compress' && targets > 1) return `Compress text of ${first.group.split('|')[1] ?? ''}`;
  if (first.kind === 'http-upgrade' && first.group.includes('links ')) return `Name ${first.group.split('links ')[1]} by https`;
  if (first.kind === 'image-resize' && targets > 1 && !first.group.endsWith('|hero')) return `Re-encode ${targets} pictures at drawn size`;
  if (first.group.endsWith('|hero') && pages > 1) return first.title.replace('the hero', 'the heroes');
  return first.title;
}

/** Averages over pages with some fixes applied. */
export interface Average {
  readonly lcpMs: number;
  readonly fcpMs: number;
  readonly loadMs: number;
  readonly bytes: number;
}

/** The average page with a set of fixes applied. */
export function averageWith(pages: readonly PlanPage[], fixes: readonly Fix[], link: Link): Average {
  let lcpMs = 0;
  let fcpMs = 0;
  let loadMs = 0;
  let bytes = 0;
  for (const { graph } of pages) {
    const m = simulate(applyFixes(graph, fixes), link).milestones;
    lcpMs += m.lcpMs;
    fcpMs += m.fcpMs;
    loadMs += m.loadMs;
    bytes += m.bytes;
  }
  const n = Math.max(1, pages.length);
  return { lcpMs: lcpMs / n, fcpMs: fcpMs / n, loadMs: loadMs / n, bytes: bytes / n };
}

/** Range of the average hero paint with fixes: the change's 10th to 90th percentile around the estimate. */
export function averageRange(pages: readonly PlanPage[], fixes: readonly Fix[], link: Link, after: number, draws = PERTURBATIONS.length): Range {
  if (fixes.length === 0) return [after, after];
  const n = Math.max(1, pages.length);
  const fixed = pages.map((p) => applyFixes(p.graph, fixes));
  const before = averageWith(pages, [], link).lcpMs;
  const changes = PERTURBATIONS.slice(0, draws).map((p) => pages.reduce((sum, page, i) => sum + simulate(fixed[i] as LoadGraph, link, p).milestones.lcpMs - simulate(page.graph, link, p).milestones.lcpMs, 0) / n);
  const [low, high] = middleRange(changes);
  return [Math.min(after, before + low), Math.max(after, before + high)];
}

/**
 * Puts groups into the best order for hero paint: each step takes what wins most on top of what is
 * already taken. Gains rarely grow as others are taken, so old gains serve as upper bounds and only
 * the leader is computed anew. What wins nothing comes last.
 */
export function buildStaircase(pages: readonly PlanPage[], link: Link, maxStairs = 10): Staircase {
  const now = averageWith(pages, [], link);
  const queue = groupFixes(pages)
    .map((group) => {
      const after = averageWith(pages, group.fixes, link);
      return { group, gain: now.lcpMs - after.lcpMs, aloneMs: now.lcpMs - after.lcpMs, fresh: 0 };
    })
    .sort((a, b) => b.gain - a.gain || (a.group.id < b.group.id ? -1 : 1));
  const taken: Fix[] = [];
  const stairs: Stair[] = [];
  let current = now.lcpMs;
  while (queue.length > 0 && stairs.length < maxStairs) {
    const lead = queue[0] as (typeof queue)[number];
    if (lead.fresh !== stairs.length) {
      lead.gain = current - averageWith(pages, [...taken, ...lead.group.fixes], link).lcpMs;
      lead.fresh = stairs.length;
      queue.sort((a, b) => b.gain - a.gain || (a.group.id < b.group.id ? -1 : 1));
      continue;
    }
    if (lead.gain < 1) break;
    queue.shift();
    taken.push(...lead.group.fixes);
    const after = averageWith(pages, taken, link);
    stairs.push({
      group: lead.group,
      lcpMs: after.lcpMs,
      fcpMs: after.fcpMs,
      bytes: after.bytes,
      range: averageRange(pages, taken, link, after.lcpMs, 12),
      wonMs: current - after.lcpMs,
      aloneMs: lead.aloneMs,
    });
    current = after.lcpMs;
  }
  return { nowMs: now.lcpMs, nowFcpMs: now.fcpMs, nowBytes: now.bytes, stairs };
}
