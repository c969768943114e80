import { fileName } from '../capture/url';
import { applyFixes } from '../fixes/applyFixes';
import type { Fix } from '../fixes/fix';
import { fileOfScript, type Link, type LoadGraph } from '../load/graph';
import { unit } from '../load/browser';
import {
  middleRange,
  MODEL_ERROR,
  modelErrorShare,
  PERTURBATIONS,
  quantile,
  withModelError,
  type Range,
} from '../load/range';
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
  /** Set where loads fall into two groups: how many of ten in each, and the change of hero paint there, in ms. */
  readonly split?: readonly [SplitGroup, SplitGroup];
}

/** One of two outcomes. */
export interface SplitGroup {
  readonly ofTen: number;
  readonly lcpMs: number;
}

/** The recording compared with its own simulation. */
export interface Trust {
  readonly recordedFcpMs?: number;
  readonly reenactedFcpMs: number;
  readonly recordedLcpMs?: number;
  readonly reenactedLcpMs: number;
  readonly recordedLoadMs?: number;
  readonly reenactedLoadMs: number;
  /** (simulated - recorded) / recorded hero paint, or first paint where that is further off; undefined when nothing was recorded. */
  readonly gap?: number;
  /** The milestone that is off by more than a tenth, and widens the range. */
  readonly missed?: 'first paint (FCP)' | 'hero paint (LCP)';
  /** How far the paints of its runs lie apart, as a share of the earliest; undefined for one run. */
  readonly spread?: number;
}

/** Figures of one simulation. */
export function figuresOf(replay: Replay): Figures {
  const { fcpMs, lcpMs, loadMs, bytes } = replay.milestones;
  return { fcpMs, lcpMs, loadMs, bytes };
}

function minus(a: Figures, b: Figures): Figures {
  return { fcpMs: a.fcpMs - b.fcpMs, lcpMs: a.lcpMs - b.lcpMs, loadMs: a.loadMs - b.loadMs, bytes: a.bytes - b.bytes };
}

const plus = (a: Figures, b: Figures): Figures => {
  const fcpMs = a.fcpMs + b.fcpMs;
  return {
    fcpMs,
    lcpMs: Math.max(fcpMs, a.lcpMs + b.lcpMs),
    loadMs: a.loadMs + b.loadMs,
    bytes: a.bytes + b.bytes,
  };
};

/**
 * Forecasts fixes applied together: the middle and the range of the difference that they make over seeded perturbations,
 * on top of one simulation without them. A hair's breadth may decide which of two requests goes first: one simulation
 * would tell of one outcome only.
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
  const { change, range, split } = changeOf(graph, fixed, visitor, errorShareOf(recorded));
  // The middle of one milestone may come before that of another: no hero is painted before anything is.
  const after = plus(before, change);
  const shown = minus(after, before);
  return {
    visitor: visitor.id,
    page: graph.page,
    before,
    after,
    change: shown,
    range: { ...range, lcpMs: around(range.lcpMs, shown.lcpMs) },
    ...(split && { split }),
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

/** The change between two graphs for one visitor: middle and range over the draws. */
export function changeOf(
  graph: LoadGraph,
  fixed: LoadGraph,
  link: Link,
  share?: number,
): Pick<Forecast, 'change' | 'range' | 'split'> {
  if (fixed === graph)
    return {
      change: { fcpMs: 0, lcpMs: 0, loadMs: 0, bytes: 0 },
      range: { fcpMs: [0, 0], lcpMs: [0, 0], loadMs: [0, 0] },
    };
  const before = simulate(graph, link).milestones;
  const after = simulate(fixed, link).milestones;
  const draws = samplesOf(graph, link);
  const changes = PERTURBATIONS.map((p, i) => {
    const drawn = withGuessedSizes(fixed, i);
    return minus(simulate(drawn, link, p).milestones, draws[i] as Milestones);
  });
  const values = (key: 'fcpMs' | 'lcpMs' | 'loadMs') => changes.map((c) => c[key]);
  // Both the middle and the unperturbed simulation, by which benches answer, lie inside.
  const of = (key: 'fcpMs' | 'lcpMs' | 'loadMs') =>
    around(
      around(middleRange(withModelError(values(key), before[key], 1, share)), middle(values(key))),
      after[key] - before[key],
    );
  return {
    change: {
      fcpMs: middle(values('fcpMs')),
      lcpMs: middle(values('lcpMs')),
      loadMs: middle(values('loadMs')),
      bytes: after.bytes - before.bytes,
    },
    range: { fcpMs: of('fcpMs'), lcpMs: of('lcpMs'), loadMs: of('loadMs') },
    split: splitOf(values('lcpMs'), before.lcpMs),
  };
}

const middle = (values: readonly number[]) =>
  quantile(
    [...values].sort((a, b) => a - b),
    0.5,
  );

/** Two groups are further apart than this, in ms and as a share of the base, and each has so many of the draws. */
const APART = { ms: 200, share: 0.15, least: 0.2 };

/** Where the changes fall into two groups with nothing in between. */
function splitOf(changes: readonly number[], beforeMs: number): Forecast['split'] {
  const sorted = [...changes].sort((a, b) => a - b);
  let at = 0;
  for (let i = 1; i < sorted.length; i++)
    if ((sorted[i] ?? 0) - (sorted[i - 1] ?? 0) > (sorted[at + 1] ?? 0) - (sorted[at] ?? 0)) at = i - 1;
  const groups = [sorted.slice(0, at + 1), sorted.slice(at + 1)] as const;
  const gap = (groups[1][0] ?? 0) - (groups[0].at(-1) ?? 0);
  const least = APART.least * sorted.length;
  if (gap < Math.max(APART.ms, APART.share * beforeMs) || groups.some((g) => g.length < least)) return undefined;
  // What lies scattered on both sides of a gap are no two groups.
  if (groups.some((g) => (g.at(-1) ?? 0) - (g[0] ?? 0) > gap)) return undefined;
  const [a, b] = groups.map((g): SplitGroup => ({
    ofTen: Math.round((10 * g.length) / sorted.length),
    lcpMs: Math.round(quantile(g, 0.5)),
  }));
  return a && b && [a, b];
}

/** How much larger or smaller a file may be that nobody has seen. */
const UNSEEN_FACTOR = 12;

/** A graph whose files of guessed size have the size of one draw. */
function withGuessedSizes(graph: LoadGraph, draw: number): LoadGraph {
  if (!graph.fetches.some((f) => f.guessed)) return graph;
  const factor = UNSEEN_FACTOR ** (2 * unit(draw + 1, 9) - 1);
  return {
    ...graph,
    fetches: graph.fetches.map((f) => (f.guessed ? { ...f, bodyBytes: Math.round(f.bodyBytes * factor) } : f)),
  };
}

function around([low, high]: Range, value: number): Range {
  return [Math.min(low, value), Math.max(high, value)];
}

const gaps = new WeakMap<LoadGraph, { readonly gap: number | undefined }>();

/**
 * By how much of its recorded time the worse of first and hero paint is simulated off under the recording's own
 * conditions; undefined when nothing was recorded. Kept while the graph lives.
 */
export function gapOf(graph: LoadGraph): number | undefined {
  let kept = gaps.get(graph);
  if (!kept) gaps.set(graph, (kept = { gap: trustOf(graph).gap }));
  return kept.gap;
}

/** The model's own error for a page, as a share of its times: wider where its recording is badly simulated, or its runs differ. */
export const errorShareOf = (graph: LoadGraph): number => modelErrorShare(gapOf(graph), graph.recorded.spread);

/** Simulates the recording under its own conditions. */
export function trustOf(graph: LoadGraph): Trust {
  const { milestones } = simulate(graph, graph.conditions);
  const { fcpMs, lcpMs } = graph.recorded;
  const offs = [
    { name: 'hero paint (LCP)' as const, gap: lcpMs ? (milestones.lcpMs - lcpMs) / lcpMs : undefined },
    { name: 'first paint (FCP)' as const, gap: fcpMs ? (milestones.fcpMs - fcpMs) / fcpMs : undefined },
  ];
  const worst = offs.reduce((a, b) => (Math.abs(b.gap ?? 0) > Math.abs(a.gap ?? 0) ? b : a));
  return {
    recordedFcpMs: graph.recorded.fcpMs,
    reenactedFcpMs: milestones.fcpMs,
    recordedLcpMs: lcpMs,
    reenactedLcpMs: milestones.lcpMs,
    recordedLoadMs: graph.recorded.loadMs,
    reenactedLoadMs: milestones.loadMs,
    gap: worst.gap,
    ...(Math.abs(worst.gap ?? 0) > MODEL_ERROR.gap && { missed: worst.name }),
    ...(graph.recorded.spread !== undefined && { spread: graph.recorded.spread }),
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
    const fetch = fileOfScript(graph, step.id);
    return [fetch >= 0 ? fileName(graph.fetches[fetch]?.url ?? '') : 'an inline script'];
  });
  return [...new Set(names)];
}

function list(names: readonly string[]): string {
  if (names.length <= 1) return names[0] ?? 'nothing';
  return `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
}
