import type { GroupGains } from '../../core/plan/sweepForecast';
import { byWorth, worthOf, type Worth } from '../../core/plan/worth';
import type { ListedCause } from './listedCauses';

/** How causes can be sorted. */
export const CAUSE_SORTS = ['impact', 'pages'] as const;
export type CauseSort = (typeof CAUSE_SORTS)[number];

/** A cause with what removing it is worth. */
export interface RatedCause extends ListedCause {
  readonly worth: Worth;
}

/**
 * Says what causes are worth and sorts them; a pure function. What a fix saves is the mean over the pages of the cause
 * that are at hand: all of them, or the six most linked.
 * @param gains what each group of fixes wins on each page; undefined where that has not been forecast yet
 */
export function rateCauses(
  causes: readonly ListedCause[],
  gains: readonly GroupGains[] | undefined,
  sort: CauseSort,
): RatedCause[] {
  const byGroup = new Map(gains?.map((g) => [g.group, new Map(g.pages)]));
  const rated = causes.map((cause): RatedCause => {
    const at = [...new Set(cause.places.map((p) => p.captureId))];
    const saved = cause.groups.flatMap((group) => {
      const here = at.flatMap((captureId) => byGroup.get(group)?.get(captureId) ?? []);
      return here.length > 0 ? [here.reduce((sum, ms) => sum + ms, 0) / here.length] : [];
    });
    const forecastMs = saved.length > 0 ? Math.max(...saved) : undefined;
    return { ...cause, worth: worthOf({ harm: cause.harm, pages: cause.pages, reach: cause.reach, forecastMs }) };
  });
  const by: Record<CauseSort, (a: RatedCause, b: RatedCause) => number> = {
    impact: (a, b) => byWorth(a.worth, b.worth),
    pages: (a, b) => b.pages - a.pages || byWorth(a.worth, b.worth),
  };
  return rated.sort(by[sort]);
}
