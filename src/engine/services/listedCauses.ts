import { codeStamp } from '../codeStamp';
import { listCauses, listFacets, type CauseRow } from '../store/causes';
import { countCausesOf, type FindingFilter } from '../store/findings';
import { keepOnce } from '../store/kept';
import { clicksList } from '../store/lists';
import type { Store } from '../store/store';
import { findSweep } from '../store/sweeps';
import { groupsByFinding } from './sweepForecasts';

/** Causes that a list has where nothing is said. */
export const LISTED_CAUSES = 500;

type Filter = FindingFilter & { readonly limit: number };

/** A cause with the ids of the groups of fixes that remove it at the places it is listed with. */
export type ListedCause = CauseRow & { readonly groups: readonly string[] };

/** Causes that fit a filter, what they can be narrowed by, and how many more are muted. */
export async function causesWithFacets(store: Store, filter: Filter) {
  const found = await listCauses(store, filter);
  const fixedBy = await groupsByFinding(store, filter.sweepId, filter.device);
  return {
    ...found,
    causes: found.causes.map((row): ListedCause => ({
      ...row,
      groups: [...new Set(row.places.flatMap((p) => fixedBy.get(p.id) ?? []))],
    })),
    device: filter.device,
    muted: await countCausesOf(store, { ...filter, muted: 'only' }),
    facets: await listFacets(store, filter),
  };
}

/**
 * As `causesWithFacets`; of a whole concern, as its screen first shows it, it is worked out once. Undefined for a sweep
 * that is not there.
 */
export async function listedCauses(
  store: Store,
  filter: Filter,
): Promise<Awaited<ReturnType<typeof causesWithFacets>> | undefined> {
  const { sweepId, device, concern, limit, muted = 'no', ...narrowed } = filter;
  const whole = concern && muted === 'no' && Object.values(narrowed).every((v) => v === undefined || v === '');
  if (!whole || limit !== LISTED_CAUSES) return causesWithFacets(store, filter);
  const sweep = await findSweep(store, sweepId);
  // What is worst depends on how many people visit a page, too.
  const clicks = sweep && ((await clicksList(store, sweep.siteId))?.id ?? 0);
  return keepOnce(store, sweepId, `${concern} ${device} ${clicks} ${codeStamp()}`, () =>
    causesWithFacets(store, filter),
  );
}
