import type { GroupGains, GroupInfo } from './sweepForecast';

/** A group of fixes of a list, by its place there, and what it wins alone on a page: ms of hero paint. */
export type GainOf = readonly [group: number, savedMs: number];

/** The best fixes for each page. */
export interface BestGains {
  /** The groups that are named, once each. */
  readonly groups: readonly GroupInfo[];
  /** Pages on which a fix wins something, each with its best ones, the best one first. */
  readonly pages: readonly (readonly [captureId: number, gains: readonly GainOf[]])[];
}

/** Least gain that is worth naming, ms. */
const LEAST_GAIN_MS = 20;

/** The `most` groups that win most on each page; of equal ones the first. A pure function. */
export function bestGains(groups: readonly GroupInfo[], gains: readonly GroupGains[], most: number): BestGains {
  const known = new Map(groups.map((g) => [g.id, g]));
  const byPage = new Map<number, [group: GroupInfo, savedMs: number][]>();
  for (const { group: id, pages } of gains) {
    const group = known.get(id);
    if (!group) continue;
    for (const [captureId, savedMs] of pages) {
      if (savedMs < LEAST_GAIN_MS) continue;
      const own = byPage.get(captureId) ?? [];
      const at = own.findIndex(([, least]) => least < savedMs);
      own.splice(at < 0 ? own.length : at, 0, [group, savedMs]);
      byPage.set(captureId, own.slice(0, most));
    }
  }
  const placeOf = new Map<GroupInfo, number>();
  const place = (group: GroupInfo) => {
    const at = placeOf.get(group) ?? placeOf.size;
    placeOf.set(group, at);
    return at;
  };
  const pages = [...byPage].map(
    ([captureId, own]) => [captureId, own.map(([g, savedMs]): GainOf => [place(g), savedMs])] as const,
  );
  return { groups: [...placeOf.keys()], pages };
}
