import type { CauseRow, Facet } from '../../engine/store/causes';
import type { FixGroup, Staircase } from '../../core/plan/staircase';
import { worthOf, type Worth } from '../../core/plan/worth';

/** Causes of a concern as the API answers them. */
export interface CausesAnswer {
  readonly total: number;
  readonly findings: number;
  readonly causes: readonly CauseRow[];
  readonly muted: number;
  readonly facets: Readonly<Record<'harms' | 'checks' | 'folders' | 'templates' | 'hosts', readonly Facet[]>>;
}

/** A cause with the fixes that remove it and what that is worth. */
export interface RatedCause {
  readonly row: CauseRow;
  readonly groups: readonly FixGroup[];
  readonly worth: Worth;
}

/** How causes can be sorted. */
export const SORTS = { worth: 'worth', harm: 'harm', pages: 'pages' } as const;
export type CauseSort = keyof typeof SORTS;

const RANK = { broken: 0, exposed: 1, slow: 2, tidy: 3 } as const;

/**
 * Puts fixes and worth to causes and sorts them. What a fix wins is the mean over the pages of the cause that are
 * at hand: all of them, or the six most linked.
 */
export function rateCauses(
  causes: readonly CauseRow[],
  groups: readonly FixGroup[],
  alone: Staircase['alone'] | undefined,
  sort: CauseSort,
): RatedCause[] {
  const byGroup = new Map(alone?.map((a) => [a.group, a.pages]));
  const byFinding = new Map<string, FixGroup[]>();
  for (const g of groups)
    for (const id of new Set(g.fixes.flatMap((f) => f.findings))) byFinding.set(id, [...(byFinding.get(id) ?? []), g]);
  const rated = causes.map((row): RatedCause => {
    const own = [...new Set(row.places.flatMap((p) => byFinding.get(p.id) ?? []))];
    const at = new Set(row.places.map((p) => p.page));
    const wins = own.flatMap((g) => {
      const here = (byGroup.get(g.id) ?? []).filter(([page]) => at.has(page)).map(([, ms]) => ms);
      return here.length > 0 ? [here.reduce((sum, ms) => sum + ms, 0) / here.length] : [];
    });
    const forecastMs = wins.length > 0 ? Math.max(...wins) : undefined;
    return { row, groups: own, worth: worthOf({ harm: row.harm, pages: row.pages, reach: row.reach, forecastMs }) };
  });
  const by: Record<CauseSort, (a: RatedCause, b: RatedCause) => number> = {
    worth: (a, b) => b.worth.seconds - a.worth.seconds,
    harm: (a, b) => RANK[a.row.harm] - RANK[b.row.harm] || b.worth.seconds - a.worth.seconds,
    pages: (a, b) => b.row.pages - a.row.pages || b.worth.seconds - a.worth.seconds,
  };
  return rated.sort(by[sort]);
}
