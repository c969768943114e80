import { fileName } from '../capture/url';
import { applyFixes } from '../fixes/applyFixes';
import type { Fix } from '../fixes/fix';
import type { Link, LoadGraph } from '../load/graph';
import { middleRange, PERTURBATIONS, withModelError, type Range } from '../load/range';
import { repeatVisit } from '../load/repeatVisit';
import type { Milestones, PathStep, Replay } from '../load/replay';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';
import { samplesOf } from './samples';

/** The figures a forecast is about. */
export interface Figures {
  readonly fcpMs: number;
  readonly lcpMs: number;
  readonly loadMs: number;
  readonly bytes: number;
}

/** Estimated change for one visitor of one page; `range` is the 10th to 90th percentile of the change. */
export interface Forecast {
  readonly visitor: string;
  readonly page: string;
  readonly before: Figures;
  readonly after: Figures;
  readonly change: Figures;
  readonly range: { readonly fcpMs: Range; readonly lcpMs: Range; readonly loadMs: Range };
}

/** The recording compared with its own simulation. */
export interface Trust {
  readonly recordedFcpMs?: number;
  readonly reenactedFcpMs: number;
  readonly recordedLcpMs?: number;
  readonly reenactedLcpMs: number;
  readonly recordedLoadMs?: number;
  readonly reenactedLoadMs: number;
  /** (simulated - recorded) / recorded hero paint; undefined when nothing was recorded. */
  readonly gap?: number;
}

/** Figures of one simulation. */
export function figuresOf(replay: Replay): Figures {
  const { fcpMs, lcpMs, loadMs, bytes } = replay.milestones;
  return { fcpMs, lcpMs, loadMs, bytes };
}

function minus(a: Figures, b: Figures): Figures {
  return { fcpMs: a.fcpMs - b.fcpMs, lcpMs: a.lcpMs - b.lcpMs, loadMs: a.loadMs - b.loadMs, bytes: a.bytes - b.bytes };
}

/**
 * Forecasts fixes applied together: one simulation without them, one with them, and the range
 * of the difference over seeded perturbations of both.
 * @param visit a first visit, or one a day later with what the first one may keep
 */
export function forecast(
  recorded: LoadGraph,
  fixes: readonly Fix[],
  visitor: Visitor,
  visit: 'first' | 'again' = 'first',
): Forecast {
  const { graph, fixed } = graphsOf(recorded, fixes, visit);
  const before = figuresOf(simulate(graph, visitor));
  const after = fixed === graph ? before : figuresOf(simulate(fixed, visitor));
  return {
    visitor: visitor.id,
    page: graph.page,
    before,
    after,
    change: minus(after, before),
    range: rangeOf(graph, fixed, visitor, before, minus(after, before)),
  };
}

/** The graph of a visit as it is and with fixes; the same one twice when they change nothing. */
function graphsOf(recorded: LoadGraph, fixes: readonly Fix[], visit: 'first' | 'again') {
  const applied = applyFixes(recorded, fixes);
  const graph = visit === 'again' ? repeatVisit(recorded) : recorded;
  return { graph, fixed: applied === recorded ? graph : visit === 'again' ? repeatVisit(applied) : applied };
}

/** What each milestone waited for, back to the start: names of files. */
export interface Waits {
  readonly fcp: readonly string[];
  readonly lcp: readonly string[];
  readonly load: readonly string[];
}

/** What the milestones of a visit wait for, without fixes and with them. */
export function waitsOf(
  recorded: LoadGraph,
  fixes: readonly Fix[],
  visitor: Visitor,
  visit: 'first' | 'again' = 'first',
): { before: Waits; after: Waits } {
  const { graph, fixed } = graphsOf(recorded, fixes, visit);
  const of = (g: LoadGraph): Waits => {
    const replay = simulate(g, visitor);
    return {
      fcp: chainNames(g, replay, replay.fcpPath),
      lcp: chainNames(g, replay),
      load: chainNames(g, replay, replay.loadPath),
    };
  };
  return { before: of(graph), after: of(fixed) };
}

/** The range of the change between two graphs for one visitor. */
export function changeRange(graph: LoadGraph, fixed: LoadGraph, link: Link): Forecast['range'] {
  const before = figuresOf(simulate(graph, link));
  return rangeOf(graph, fixed, link, before, minus(figuresOf(simulate(fixed, link)), before));
}

/** The estimate itself is always inside: where draws all fall to one side, the range reaches up to it. */
function rangeOf(graph: LoadGraph, fixed: LoadGraph, link: Link, before: Figures, change: Figures): Forecast['range'] {
  if (fixed === graph) return { fcpMs: [0, 0], lcpMs: [0, 0], loadMs: [0, 0] };
  const draws = samplesOf(graph, link);
  const changes = PERTURBATIONS.map((p, i) => minus(simulate(fixed, link, p).milestones, draws[i] as Milestones));
  const of = (key: 'fcpMs' | 'lcpMs' | 'loadMs') =>
    around(
      middleRange(
        withModelError(
          changes.map((c) => c[key]),
          before[key],
        ),
      ),
      change[key],
    );
  return { fcpMs: of('fcpMs'), lcpMs: of('lcpMs'), loadMs: of('loadMs') };
}

function around([low, high]: Range, value: number): Range {
  return [Math.min(low, value), Math.max(high, value)];
}

/** Simulates the recording under its own conditions. */
export function trustOf(graph: LoadGraph): Trust {
  const { milestones } = simulate(graph, graph.conditions);
  const recorded = graph.recorded.lcpMs;
  return {
    recordedFcpMs: graph.recorded.fcpMs,
    reenactedFcpMs: milestones.fcpMs,
    recordedLcpMs: recorded,
    reenactedLcpMs: milestones.lcpMs,
    recordedLoadMs: graph.recorded.loadMs,
    reenactedLoadMs: milestones.loadMs,
    gap: recorded ? (milestones.lcpMs - recorded) / recorded : undefined,
  };
}

/** Why the hero comes earlier or later: what left the chain that its paint waited for, and what is there now. */
export function explain(graph: LoadGraph, fixes: readonly Fix[], visitor: Visitor): string[] {
  const fixed = applyFixes(graph, fixes);
  const before = simulate(graph, visitor);
  const after = simulate(fixed, visitor);
  const was = chainNames(graph, before);
  const is = chainNames(fixed, after);
  const left = was.filter((n) => !is.includes(n));
  const came = is.filter((n) => !was.includes(n));
  const out: string[] = [];
  if (left.length > 0) out.push(`The hero no longer waits for ${list(left)}.`);
  if (came.length > 0) out.push(`It now waits for ${list(came)}.`);
  if (left.length === 0 && came.length === 0) out.push(`The hero waits for the same as before: ${list(is)}.`);
  return out;
}

/** Names of what a milestone waited for, in order; the hero's paint if no other path is given. */
export function chainNames(graph: LoadGraph, replay: Replay, path: readonly PathStep[] = replay.path): string[] {
  const names = path.flatMap((step) => {
    if (step.kind === 'fetch') return [fileName(graph.fetches[step.id]?.url ?? '')];
    if (step.kind !== 'script') return [];
    const fetch = graph.scripts[step.id]?.fetch ?? -1;
    return [fetch >= 0 ? fileName(graph.fetches[fetch]?.url ?? '') : 'an inline script'];
  });
  return [...new Set(names)];
}

function list(names: readonly string[]): string {
  if (names.length <= 1) return names[0] ?? 'nothing';
  return `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
}
