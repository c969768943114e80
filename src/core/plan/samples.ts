import type { Link, LoadGraph } from '../load/graph';
import { PERTURBATIONS } from '../load/range';
import type { Milestones } from '../load/replay';
import { simulate } from '../load/simulate';

const drawn = new WeakMap<LoadGraph, Map<string, Milestones[]>>();

/**
 * Perturbed simulations of a graph, kept while the graph lives: every fix of a page is compared on the same ones.
 * @param count the first so many; all if not stated
 */
export function samplesOf(graph: LoadGraph, link: Link, count = PERTURBATIONS.length): readonly Milestones[] {
  const key = `${link.rttMs}|${link.downKbps}|${link.upKbps}|${link.cpuFactor}`;
  const byLink = drawn.get(graph) ?? new Map<string, Milestones[]>();
  drawn.set(graph, byLink);
  const made = byLink.get(key) ?? [];
  byLink.set(key, made);
  for (const p of PERTURBATIONS.slice(made.length, count)) made.push(simulate(graph, link, p).milestones);
  return made.slice(0, count);
}
