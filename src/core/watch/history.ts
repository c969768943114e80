import { pagesIn } from '../plan/plan';
import type { Ranged } from './figures';
import { limitedValue, SITE_FIGURES, type WatchedFigure, type WatchFacts, type WatchLimit } from './limits';

/** A figure in one sweep. */
export interface HistoryPoint extends Ranged {
  readonly sweepId: number;
  /** YYYY-MM-DD */
  readonly day: string;
  /** Recorded pages that it is of. */
  readonly pages: number;
}

/** Something that happened, on the day on which it was seen. */
export interface HistoryEvent {
  readonly day: string;
  readonly kind: 'fix' | 'limit' | 'change';
  readonly text: string;
  /** Path of the screen that shows it. */
  readonly path: string;
}

/** A figure over all sweeps of a site, the oldest first, with what happened meanwhile. */
export interface History {
  readonly figure: WatchedFigure;
  readonly points: readonly HistoryPoint[];
  readonly events: readonly HistoryEvent[];
}

/** Which figure is asked for. */
export type HistoryQuestion = Pick<WatchLimit, 'figure' | 'scope' | 'concern' | 'harm'>;

/** Figures that a sweep itself keeps: certificates and entrances are asked for at other times. */
export const HISTORY_FIGURES = ['lcpMs', 'fcpMs', 'loadMs', 'cls', 'bytes', 'requests', 'findings'] as const;

/** The figure in one sweep; undefined where none of its pages were recorded. */
export function historyPoint(
  question: HistoryQuestion,
  facts: WatchFacts,
  sweep: { readonly id: number; readonly day: string },
): HistoryPoint | undefined {
  const value = limitedValue({ ...question, visitor: '', bound: 0, tolerance: 0 }, facts);
  const pages = ofWholeSite(question.figure) ? facts.pages.length : pagesIn(facts.pages, question.scope).length;
  return value && { ...value, sweepId: sweep.id, day: sweep.day, pages };
}

const ofWholeSite = (figure: WatchedFigure) => SITE_FIGURES.includes(figure as (typeof SITE_FIGURES)[number]);
