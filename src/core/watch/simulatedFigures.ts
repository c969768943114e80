import type { LoadGraph } from '../load/graph';
import { middleRange, quantile, type Range } from '../load/range';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';
import { errorShareOf } from '../plan/forecast';
import { samplesOf } from '../plan/samples';
import type { PageFigure, Ranged } from './figures';

/**
 * A time of a page for a visitor, ms: the middle of the draws, since one of two orders of requests may decide a single
 * simulation, and where nine of ten loads lie, the model's own error included.
 */
export function timeFigure(graph: LoadGraph, visitor: Visitor, figure: 'lcpMs' | 'fcpMs' | 'loadMs') {
  const drawn = samplesOf(graph, visitor)
    .map((m) => m[figure])
    .sort((a, b) => a - b);
  const value = Math.round(quantile(drawn, 0.5));
  const error = errorShareOf(graph) * value;
  const [low, high] = middleRange(drawn);
  const range: Range = [Math.round(Math.min(low, value - error)), Math.round(Math.max(high, value + error))];
  return { value, range };
}

/** The figures of a page for a visitor. */
export function figuresOf(graph: LoadGraph, visitor: Visitor): Readonly<Record<PageFigure, Ranged>> {
  const now = simulate(graph, visitor).milestones;
  return {
    lcpMs: timeFigure(graph, visitor, 'lcpMs'),
    fcpMs: timeFigure(graph, visitor, 'fcpMs'),
    loadMs: timeFigure(graph, visitor, 'loadMs'),
    cls: { value: now.cls ?? 0 },
    bytes: { value: now.bytes },
    requests: { value: now.requests },
  };
}
