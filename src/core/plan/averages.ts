import { applyFixes } from '../fixes/applyFixes';
import type { Fix } from '../fixes/fix';
import type { Link, LoadGraph } from '../load/graph';
import type { Milestones } from '../load/replay';
import { simulate } from '../load/simulate';
import type { PlanPage } from './staircase';

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
  let n = 0;
  const own = fixesByPage(fixes);
  for (const { graph, weight = 1 } of pages) {
    const m = milestonesWith(graph, own.get(graph.page) ?? [], link);
    lcpMs += weight * m.lcpMs;
    fcpMs += weight * m.fcpMs;
    loadMs += weight * m.loadMs;
    bytes += weight * m.bytes;
    n += weight;
  }
  n ||= 1;
  return { lcpMs: lcpMs / n, fcpMs: fcpMs / n, loadMs: loadMs / n, bytes: bytes / n };
}

/** Fixes by the page that they are of. */
export function fixesByPage(fixes: readonly Fix[]): Map<string, Fix[]> {
  const out = new Map<string, Fix[]>();
  for (const fix of fixes) {
    const own = out.get(fix.page);
    if (own) own.push(fix);
    else out.set(fix.page, [fix]);
  }
  return out;
}

const remembered = new WeakMap<LoadGraph, Map<string, Milestones>>();
const MOST_REMEMBERED = 2000;

/** Milestones of one page with the fixes that concern it; what was simulated before is remembered. */
export function milestonesWith(graph: LoadGraph, fixes: readonly Fix[], link: Link): Milestones {
  const own = fixes.filter((f) => f.page === graph.page);
  const key = `${link.rttMs},${link.downKbps},${link.upKbps},${link.cpuFactor}|${own
    .map((f) => f.id)
    .sort()
    .join()}`;
  const kept = remembered.get(graph) ?? new Map<string, Milestones>();
  remembered.set(graph, kept);
  const known = kept.get(key);
  if (known) return known;
  if (kept.size >= MOST_REMEMBERED) kept.clear();
  const made = simulate(applyFixes(graph, own), link).milestones;
  kept.set(key, made);
  return made;
}
