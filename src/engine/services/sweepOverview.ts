import type { Device } from '../../core/capture/capture';
import type { GroupInfo } from '../../core/plan/sweepForecast';
import { deviceIn, listCaptures, type CaptureRow } from '../store/captures';
import { countCauses } from '../store/findings';
import { placesOf, type PagePlace } from '../store/pagePlaces';
import { clicksList } from '../store/lists';
import type { Store } from '../store/store';
import { findSweep } from '../store/sweeps';
import { sweepGroups } from './sweepForecasts';

/** A recorded page as lists show it. */
export interface OverviewPage extends PagePlace {
  readonly row: CaptureRow;
}

/** What every screen of a site shows of a sweep: its recorded pages and the fixes that they offer. */
export interface SweepOverview {
  readonly device: Device;
  /** Causes by concern. */
  readonly counts: Readonly<Record<string, number>>;
  readonly pages: readonly OverviewPage[];
  readonly groups: readonly GroupInfo[];
  /** Name of the search export whose clicks count as visits; undefined where links in do. */
  readonly clicksOf?: string;
}

/** The recorded pages of a sweep for one device, or for the one that it has. */
export async function sweepOverview(store: Store, sweepId: number, wanted: Device): Promise<SweepOverview> {
  const device = await deviceIn(store, sweepId, wanted);
  const rows = await listCaptures(store, sweepId, device);
  const places = await placesOf(
    store,
    sweepId,
    rows.map((r) => r.page),
  );
  const sweep = await findSweep(store, sweepId);
  return {
    device,
    clicksOf: sweep && (await clicksList(store, sweep.siteId))?.name,
    counts: await countCauses(store, sweepId, device),
    pages: rows.map((row) => ({ row, linksIn: 0, ...places.get(row.page) })),
    groups: await sweepGroups(store, sweepId, device),
  };
}
