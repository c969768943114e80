import type { CauseRow, Facet } from '../../engine/store/causes';
import type { Staircase } from '../../core/plan/staircase';
import type { GroupInfo } from '../../core/plan/sweepForecast';
import { byWorth, worthOf, type Worth } from '../../core/plan/worth';

/** Causes of a concern as the API answers them. */
export interface CausesAnswer {
  readonly total: number;
  readonly findings: number;
  readonly causes: readonly CauseRow[];
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
  readonly row: CauseRow;
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
  causes: readonly CauseRow[],
  groups: readonly GroupInfo[],
  alone: Staircase<GroupInfo>['alone'] | undefined,
  sort: CauseSort,
): RatedCause[] {
  const byGroup = new Map(alone?.map((a) => [a.group, a.pages]));
  const byFinding = new Map<string, GroupInfo[]>();
  for (const g of groups) for (const id of g.findings) byFinding.set(id, [...(byFinding.get(id) ?? []), g]);
  const rated = causes.map((row): RatedCause => {
    const own = [...new Set(row.places.flatMap((p) => byFinding.get(p.id) ?? []))];
    const at = new Set(row.places.map((p) => p.page));
    const saved = own.flatMap((g) => {
      const here = (byGroup.get(g.id) ?? []).filter(([page]) => at.has(page)).map(([, ms]) => ms);
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
