import type { Concern, Harm } from '../checks/concern';
import { middleRange, quantile, type Range } from '../load/range';
import type { LoadGraph } from '../load/graph';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';
import { errorShareOf } from '../plan/forecast';
import { samplesOf } from '../plan/samples';

/** Figures of a page that the load model gives. Times in ms, CLS as a score, bytes as transferred. */
export const PAGE_FIGURES = ['lcpMs', 'fcpMs', 'loadMs', 'cls', 'bytes', 'requests'] as const;
export type PageFigure = (typeof PAGE_FIGURES)[number];

/** A value, with the range in which nine of ten loads lie where one is known. */
export interface Ranged {
  readonly value: number;
  readonly range?: Range;
}

/** What a sweep says of one recorded page for one visitor. */
export interface PageFigures extends Readonly<Record<PageFigure, Ranged>> {
  readonly captureId: number;
  readonly page: string;
  /** Name of its template. */
  readonly template?: string;
  /** Findings that are not muted, counted by concern and harm. */
  readonly findings: readonly { readonly concern: Concern; readonly harm: Harm; readonly count: number }[];
}

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

/** The average of pages, as the Brief shows it; undefined without any. */
export function averageOf(pages: readonly PageFigures[], figure: PageFigure): Ranged | undefined {
  if (pages.length === 0) return undefined;
  const mean = (of: (r: Ranged) => number) => pages.reduce((sum, p) => sum + of(p[figure]), 0) / pages.length;
  const round = (n: number) => (figure === 'cls' ? Math.round(n * 1000) / 1000 : Math.round(n));
  const value = round(mean((r) => r.value));
  if (!pages.every((p) => p[figure].range)) return { value };
  // Pages of one site err together: their ranges do not even out.
  return { value, range: [round(mean((r) => r.range?.[0] ?? r.value)), round(mean((r) => r.range?.[1] ?? r.value))] };
}
