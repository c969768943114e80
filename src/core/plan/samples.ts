import type { Link, LoadGraph } from '../load/graph';
import { PERTURBATIONS } from '../load/range';
import type { Milestones } from '../load/replay';
import { simulate } from '../load/simulate';
import type { Steps } from './steps';

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

/** Simulations between two steps: a few milliseconds. */
const AT_ONCE = 2;

/** As `samplesOf`, a few at a time. */
export function* samplesSteps(
  graph: LoadGraph,
  link: Link,
  count = PERTURBATIONS.length,
): Steps<readonly Milestones[]> {
  for (let n = AT_ONCE; n < count; n += AT_ONCE) {
    samplesOf(graph, link, n);
    yield;
  }
  return samplesOf(graph, link, count);
}
