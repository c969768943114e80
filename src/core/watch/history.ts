import { pagesIn } from '../plan/plan';
import type { PageFigures, Ranged } from './figures';
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
  /** Sweeps recorded different pages: each is of those that all have in common, so many; of its own where it is 0. */
  readonly common?: number;
}

/** Which figure is asked for. */
export type HistoryQuestion = Pick<WatchLimit, 'figure' | 'scope' | 'concern' | 'harm'>;

/** Figures that a sweep itself keeps: certificates and entrances are asked for at other times. */
export const HISTORY_FIGURES = ['lcpMs', 'fcpMs', 'loadMs', 'cls', 'bytes', 'requests', 'findings'] as const;

/** Pages in common must be this share of those of the sweep that has most, to stand for all. */
const ENOUGH = 0.25;

/**
 * The figure over sweeps, the oldest first. Where they recorded different pages, averages of all would tell of the choice
 * of pages and not of the site: each point is then of the pages that all sweeps have in common, if those are enough.
 */
export function historyPoints(
  question: HistoryQuestion,
  sweeps: readonly { readonly id: number; readonly day: string; readonly pages: readonly PageFigures[] }[],
): Pick<History, 'points' | 'common'> {
  const chosen = sweeps
    .map((s) => ({ ...s, pages: pagesIn(s.pages, question.scope) }))
    .filter((s) => s.pages.length > 0);
  const sets = chosen.map((s) => new Set(s.pages.map((p) => p.page)));
  const shared = new Set([...(sets[0] ?? [])].filter((page) => sets.every((s) => s.has(page))));
  const same = sets.every((s) => s.size === shared.size);
  const most = Math.max(0, ...sets.map((s) => s.size));
  const enough = shared.size > 0 && shared.size >= ENOUGH * most;
  const points = chosen.flatMap((s) => {
    const pages = same || !enough ? s.pages : s.pages.filter((p) => shared.has(p.page));
    return historyPoint(question, { pages }, s) ?? [];
  });
  return same ? { points } : { points, common: enough ? shared.size : 0 };
}

/** The figure in one sweep; undefined where none of its pages were recorded. */
function historyPoint(
  question: HistoryQuestion,
  facts: WatchFacts,
  sweep: { readonly id: number; readonly day: string },
): HistoryPoint | undefined {
  const value = limitedValue({ ...question, visitor: '', bound: 0, tolerance: 0 }, facts);
  const pages = ofWholeSite(question.figure) ? facts.pages.length : pagesIn(facts.pages, question.scope).length;
  return value && { ...value, sweepId: sweep.id, day: sweep.day, pages };
}

const ofWholeSite = (figure: WatchedFigure) => SITE_FIGURES.includes(figure as (typeof SITE_FIGURES)[number]);
