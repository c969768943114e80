import { COVERAGE, type CoverageCounts, type CoverageState } from '../../core/site/coverage';

export interface CoverageArea {
  readonly group: string;
  readonly state: CoverageState;
  readonly count: number;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export interface CoverageGroup {
  readonly key: string;
  readonly name: string;
  readonly counts: CoverageCounts;
}

const sum = (counts: CoverageCounts) => Object.values(counts).reduce((a, b) => a + b, 0);
/** Groups that get a column of their own; the rest share the last one. */
const COLUMNS = 9;

/** Puts small groups together, so that every area can be seen and pressed. */
export function mainGroups(groups: readonly CoverageGroup[]): CoverageGroup[] {
  if (groups.length <= COLUMNS) return [...groups];
  const rest = groups.slice(COLUMNS - 1);
  const counts = Object.fromEntries(COVERAGE.map((c) => [c.id, rest.reduce((n, g) => n + g.counts[c.id], 0)]));
  return [...groups.slice(0, COLUMNS - 1), { key: '', name: `${rest.length} more`, counts: counts as CoverageCounts }];
}

/**
 * States as areas: a column for each group, as wide as its share of the addresses (but never too narrow to press), in
 * it the states from the top in their order; a pure function.
 */
export function coverageLayout(groups: readonly CoverageGroup[], width: number, height: number): CoverageArea[] {
  const total = groups.reduce((n, g) => n + sum(g.counts), 0);
  if (total === 0) return [];
  const least = 34;
  const free = Math.max(0, width - least * groups.length);
  let x = 0;
  return groups.flatMap((g) => {
    const own = sum(g.counts);
    const wide = least + (free * own) / total;
    let y = 0;
    const areas = COVERAGE.flatMap(({ id }): CoverageArea[] => {
      const count = g.counts[id];
      if (count === 0) return [];
      const area = { group: g.key, state: id, count, x, y, width: wide - 2, height: (height * count) / own - 1 };
      y += (height * count) / own;
      return [area];
    });
    x += wide;
    return areas;
  });
}
