import { isGood, type Entrance, type Verdict } from './entrances';

/** What a screen shows of the probed addresses of a site, which may be thousands. */
export interface ListedEntrances {
  /** Every entrance, and the deep addresses among the first rows of the table; in the order in which they were asked for. */
  readonly entrances: readonly Entrance[];
  /** How many addresses have each verdict, deep ones included: faults first, then the most. */
  readonly verdicts: readonly { readonly verdict: Verdict; readonly addresses: number }[];
  readonly deep: { readonly addresses: number; readonly faulty: number };
}

/** Faults first, otherwise as they come. */
export const faultsFirst = (entrances: readonly Entrance[]): Entrance[] =>
  [...entrances].sort((a, b) => Number(isGood(a.verdict)) - Number(isGood(b.verdict)));

/** How many have each verdict: faults first, then the most. */
export function verdictCounts(entrances: readonly Entrance[]): ListedEntrances['verdicts'] {
  const counts = new Map<Verdict, number>();
  for (const e of entrances) counts.set(e.verdict, (counts.get(e.verdict) ?? 0) + 1);
  return [...counts]
    .map(([verdict, addresses]) => ({ verdict, addresses }))
    .sort((a, b) => Number(isGood(a.verdict)) - Number(isGood(b.verdict)) || b.addresses - a.addresses);
}

/**
 * What a screen shows of probed addresses.
 * @param rows how many rows its table has, faults first
 * @param verdict narrows the table
 */
export function listedEntrances(all: readonly Entrance[], rows: number, verdict?: Verdict): ListedEntrances {
  const listed = new Set(faultsFirst(all.filter((e) => !verdict || e.verdict === verdict)).slice(0, rows));
  const deep = all.filter((e) => e.why !== 'entrance');
  return {
    // What tells pages apart has done its work by now.
    entrances: all.filter((e) => e.why === 'entrance' || listed.has(e)).map((e) => ({ ...e, page: undefined })),
    verdicts: verdictCounts(all),
    deep: { addresses: deep.length, faulty: deep.filter((e) => !isGood(e.verdict)).length },
  };
}
