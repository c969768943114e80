import type { GroupInfo } from '../../core/plan/sweepForecast';
import type { CauseSort, RatedCause } from '../../engine/services/ratedCauses';
import type { Facet } from '../../engine/store/causes';

/** Causes of a concern as the API answers them. */
export interface CausesAnswer {
  readonly total: number;
  readonly findings: number;
  readonly causes: readonly RatedCause[];
  /** The first fixes of each cause. */
  readonly fixes: readonly GroupInfo[];
  /** Causes that a list can be opened to at most. */
  readonly listed: number;
  /** What they are worth rests on a forecast; false while that is worked out. */
  readonly rated: boolean;
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

/** How causes can be sorted. */
export const SORTS: Readonly<Record<CauseSort, string>> = { impact: 'impact', pages: 'pages' };

/** Causes that a list shows before somebody asks for all. */
const SHOWN = 100;

/** Where the causes of a concern are listed, as the address of its screen narrows and sorts them. */
export function causesPath(
  sweepId: number,
  { device, visitor }: { readonly device: string; readonly visitor: string },
  concern: string,
  query: URLSearchParams,
): string {
  const sort = query.get('sort') === 'pages' ? 'pages' : 'impact';
  const more = `&visitor=${encodeURIComponent(visitor)}&sort=${sort}${query.get('all') === 'causes' ? '' : `&shown=${SHOWN}`}`;
  return `/api/sweeps/${sweepId}/causes?${causesFilter(device, concern, query)}${more}`;
}

/** A cause with the fixes that remove it, as far as they are known. */
export interface FixedCause {
  readonly row: RatedCause;
  readonly groups: readonly GroupInfo[];
}

/** Puts the fixes of a sweep to its causes. */
export function withFixes(causes: readonly RatedCause[], groups: readonly GroupInfo[]): FixedCause[] {
  const byId = new Map(groups.map((g) => [g.id, g]));
  return causes.map((row) => ({ row, groups: row.groups.flatMap((id) => byId.get(id) ?? []) }));
}
