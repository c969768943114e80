import { hostOf, pathOf } from '../capture/url';
import { applyFixes } from '../fixes/applyFixes';
import type { Fix } from '../fixes/fix';
import type { LoadGraph, Link } from '../load/graph';
import { middleRange, PERTURBATIONS, withModelError, type Range } from '../load/range';
import { errorShareOf } from './forecast';
import { samplesOf } from './samples';
import { averageWith, fixesByPage } from './averages';
import { averagesOf } from './groupAverages';
import { bestOrder } from './search';
import { STOPS_PAYING_MS } from './thresholds';

/** A page with the fixes offered for it, ready to be simulated. */
export interface PlanPage {
  readonly graph: LoadGraph;
  readonly fixes: readonly Fix[];
  /** What the page counts for among others: visits or links in; 1 if not stated. */
  readonly weight?: number;
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
export interface Stair<G extends Pick<FixGroup, 'id'> = FixGroup> {
  readonly group: G;
  readonly lcpMs: number;
  /** Range of `lcpMs`. */
  readonly range: Range;
  /** Won by this step, and what the same change wins alone. */
  readonly wonMs: number;
  readonly aloneMs: number;
  readonly fcpMs: number;
  readonly bytes: number;
}

export interface Staircase<G extends Pick<FixGroup, 'id'> = FixGroup> {
  readonly nowMs: number;
  readonly nowFcpMs: number;
  readonly nowBytes: number;
  readonly stairs: readonly Stair<G>[];
  /** How many of the stairs are worthwhile: all up to the last that is. */
  readonly paying: number;
}

/** Groups the fixes of pages by the change that makes them. */
export function groupFixes(pages: readonly PlanPage[]): FixGroup[] {
  const groups = new Map<string, Fix[]>();
  for (const page of pages)
    for (const fix of page.fixes) {
      const own = groups.get(fix.group);
      if (own) own.push(fix);
      else groups.set(fix.group, [fix]);
    }
  const out = [...groups].map(([id, fixes]): FixGroup => {
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
  return apart(out);
}

/** The model's own error, averaged over pages by how far off their recordings are simulated. */
export const meanShare = (pages: readonly Pick<PlanPage, 'graph'>[]): number =>
  pages.reduce((sum, p) => sum + errorShareOf(p.graph), 0) / Math.max(1, pages.length);

/** Titles that several groups share get the host of their target, or its path where the host is the same too. */
function apart(groups: readonly FixGroup[]): FixGroup[] {
  const alike = new Map<string, { groups: number; readonly hosts: Set<string> }>();
  for (const g of groups) {
    const own = alike.get(g.title) ?? { groups: 0, hosts: new Set() };
    own.groups++;
    own.hosts.add(hostOf(g.fixes[0]?.target ?? ''));
    alike.set(g.title, own);
  }
  return groups.map((g) => {
    const own = alike.get(g.title);
    if (!own || own.groups < 2) return g;
    const target = g.fixes[0]?.target ?? '';
    const mark = own.hosts.size === own.groups ? hostOf(target) : pathOf(target) || pathOf(g.fixes[0]?.page ?? '');
    return { ...g, title: `${g.title} (${mark})` };
  });
}

function groupTitle(first: Fix, targets: number, pages: number): string {
  if (first.kind === 'text-compress' && targets > 1) return `Compress text of ${first.group.split('|')[1] ?? ''}`;
  if (first.kind === 'http-upgrade' && first.group.includes('links '))
    return `Use https:// for links to ${first.group.split('links ')[1]}`;
  if (first.kind === 'image-resize' && targets > 1 && !first.group.endsWith('|hero'))
    return `Re-encode ${targets} pictures`;
  if (first.group.endsWith('|hero') && pages > 1)
    return first.kind === 'image-resize' ? 'Re-encode the heroes' : first.title.replace('the hero', 'the heroes');
  return first.title;
}

/** Pages whose loads are drawn for the range of an average: among more it hardly changes. */
const MOST_DRAWN = 120;

/** So many of a list at most, evenly taken. */
const evenly = <T>(list: readonly T[], most: number): readonly T[] =>
  list.length <= most ? list : Array.from({ length: most }, (_, i) => list[Math.floor((i * list.length) / most)] as T);

/** Range of the average hero paint with fixes: the change's 10th to 90th percentile around the estimate. */
export function averageRange(
  pages: readonly PlanPage[],
  fixes: readonly Fix[],
  link: Link,
  after: number,
  draws = PERTURBATIONS.length,
): Range {
  if (fixes.length === 0) return [after, after];
  const own = fixesByPage(fixes);
  const before = averageWith(pages, [], link).lcpMs;
  const changes = new Array<number>(draws).fill(0);
  const sampled = evenly(pages, MOST_DRAWN);
  const n = Math.max(1, sampled.length);
  sampled.forEach((page) => {
    const graph = applyFixes(page.graph, own.get(page.graph.page) ?? []);
    // A page that no fix concerns changes in no draw.
    if (graph === page.graph) return;
    const was = samplesOf(page.graph, link, draws);
    samplesOf(graph, link, draws).forEach((m, k) => {
      changes[k] = (changes[k] ?? 0) + (m.lcpMs - (was[k]?.lcpMs ?? 0)) / n;
    });
  });
  const [low, high] = middleRange(withModelError(changes, before, pages.length, meanShare(pages)));
  return [Math.min(after, before + low), Math.max(after, before + high)];
}

/**
 * Puts groups into the best order for hero paint: each step takes what wins most on top of what is
 * already taken. Every candidate is simulated at every step, since some fixes win more once others
 * are in. Steps that do not pay are put behind those that do, and what wins nothing is left out.
 */
export function buildStaircase(pages: readonly PlanPage[], link: Link, maxStairs = 10): Staircase {
  const now = averageWith(pages, [], link);
  const groups = groupFixes(pages);
  const byId = new Map(groups.map((g) => [g.id, g]));
  const after = averagesOf(pages, groups, link);
  const candidates = groups.map((group) => ({ group, aloneMs: now.lcpMs - after([group.id]).lcpMs }));
  const greedy = bestOrder(groups, (ids) => after(ids).lcpMs, maxStairs + 4)
    .steps.filter((s) => s.won >= 1 || s.won < 0)
    .map((s) => ({ group: byId.get(s.id) as FixGroup, wonMs: s.won }));
  const order = greedy.map((s) => s.group);
  const idle = greedy.filter((s) => s.wonMs < STOPS_PAYING_MS).map((s) => s.group);
  const sorted = [...order.filter((g) => !idle.includes(g)), ...idle];
  const climb = (groups: readonly FixGroup[]) =>
    climbStairs(pages, link, groups.slice(0, maxStairs), candidates, now.lcpMs);
  let stairs = climb(sorted);
  // A step that did not pay may have made a later one pay: then it has to stay where it was.
  if (stairs.some((s) => s.wonMs < 0)) stairs = climb(order);
  return {
    nowMs: now.lcpMs,
    nowFcpMs: now.fcpMs,
    nowBytes: now.bytes,
    stairs,
    paying: lastPaying(stairs) + 1,
  };
}

function climbStairs(
  pages: readonly PlanPage[],
  link: Link,
  groups: readonly FixGroup[],
  candidates: readonly { group: FixGroup; aloneMs: number }[],
  nowMs: number,
): Stair[] {
  const taken: Fix[] = [];
  let current = nowMs;
  return groups.map((group) => {
    taken.push(...group.fixes);
    const after = averageWith(pages, taken, link);
    const wonMs = current - after.lcpMs;
    current = after.lcpMs;
    return {
      group,
      lcpMs: after.lcpMs,
      fcpMs: after.fcpMs,
      bytes: after.bytes,
      range: averageRange(pages, taken, link, after.lcpMs, 12),
      wonMs,
      aloneMs: candidates.find((c) => c.group === group)?.aloneMs ?? 0,
    };
  });
}

/** Index of the last worthwhile stair; -1 for none. */
function lastPaying(stairs: readonly Stair[]): number {
  return stairs.reduce((last, s, i) => (s.wonMs >= STOPS_PAYING_MS ? i : last), -1);
}
