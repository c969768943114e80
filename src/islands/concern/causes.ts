import type { GroupGains, GroupInfo } from '../../core/plan/sweepForecast';
import type { ListedCause } from '../../engine/services/listedCauses';
import type { Facet } from '../../engine/store/causes';
import { byWorth, worthOf, type Worth } from '../../core/plan/worth';

/** Causes of a concern as the API answers them. */
export interface CausesAnswer {
  readonly total: number;
  readonly findings: number;
  readonly causes: readonly ListedCause[];
  readonly muted: number;
  readonly facets: Readonly<Record<'harms' | 'checks' | 'folders' | 'templates' | 'hosts', readonly Facet[]>>;
}

/** Query parameters that narrow the list, as the API knows them. */
export const FILTERS = ['harm', 'check', 'cause', 'folder', 'template', 'host', 'search', 'muted'] as const;

/** What the address of a concern's screen narrows its list by, as parameters of the API. */
export function causesFilter(device: string, concern: string, query: URLSearchParams): string {
  const filter = new URLSearchParams({ device, concern });
  for (const name of [...FILTERS, 'fix']) {
    const value = query.get(name);
    if (value) filter.set(name, value);
  }
  return filter.toString();
}

/** Where the causes of a concern are listed, as the address of its screen narrows them. */
export const causesPath = (sweepId: number, device: string, concern: string, query: URLSearchParams): string =>
  `/api/sweeps/${sweepId}/causes?${causesFilter(device, concern, query)}`;

/** A cause with the fixes that remove it and what that is worth. */
export interface RatedCause {
  readonly row: ListedCause;
  readonly groups: readonly GroupInfo[];
  readonly worth: Worth;
}

/** How causes can be sorted. */
export const SORTS = { impact: 'impact', pages: 'pages' } as const;
export type CauseSort = keyof typeof SORTS;

/**
 * Puts fixes and worth to causes and sorts them. What a fix saves is the mean over the pages of the cause that are
 * at hand: all of them, or the six most linked.
 */
export function rateCauses(
  causes: readonly ListedCause[],
  groups: readonly GroupInfo[],
  gains: readonly GroupGains[] | undefined,
  sort: CauseSort,
): RatedCause[] {
  const byId = new Map(groups.map((g) => [g.id, g]));
  const byGroup = new Map(gains?.map((g) => [g.group, new Map(g.pages)]));
  const rated = causes.map((row): RatedCause => {
    const own = row.groups.flatMap((id) => byId.get(id) ?? []);
    const at = [...new Set(row.places.map((p) => p.captureId))];
    const saved = own.flatMap((g) => {
      const here = at.flatMap((captureId) => byGroup.get(g.id)?.get(captureId) ?? []);
      return here.length > 0 ? [here.reduce((sum, ms) => sum + ms, 0) / here.length] : [];
    });
    const forecastMs = saved.length > 0 ? Math.max(...saved) : undefined;
    return { row, groups: own, worth: worthOf({ harm: row.harm, pages: row.pages, reach: row.reach, forecastMs }) };
  });
  const by: Record<CauseSort, (a: RatedCause, b: RatedCause) => number> = {
    impact: (a, b) => byWorth(a.worth, b.worth),
    pages: (a, b) => b.row.pages - a.row.pages || byWorth(a.worth, b.worth),
  };
  return rated.sort(by[sort]);
}
