import type { GroupInfo } from './sweepForecast';

/** So many fixes of a cause are named along with it. */
export const FIRST_FIXES = 6;

/** The groups that are among the first of some cause, once each. A pure function. */
export function firstFixes(
  causes: readonly { readonly groups: readonly string[] }[],
  groups: readonly GroupInfo[],
): GroupInfo[] {
  const named = new Set(causes.flatMap((c) => c.groups.slice(0, FIRST_FIXES)));
  return groups.filter((g) => named.has(g.id));
}
