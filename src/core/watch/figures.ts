import type { Concern, Harm } from '../checks/concern';
import type { Range } from '../load/range';

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
