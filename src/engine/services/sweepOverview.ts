import type { Device } from '../../core/capture/capture';
import type { FieldRow } from '../../core/field/fieldData';
import type { GroupInfo } from '../../core/plan/sweepForecast';
import { deviceIn, devicesOf, listCaptures, type CaptureRow } from '../store/captures';
import { latestField, type LatestField } from '../store/fieldFiles';
import { countCauses } from '../store/findings';
import { placesOf, type PagePlace } from '../store/pagePlaces';
import { keepOnce } from '../store/kept';
import { clicksList } from '../store/lists';
import type { Store } from '../store/store';
import { findSweep } from '../store/sweeps';
import { sweepGroups } from './sweepForecasts';

/** A recorded page as lists show it. */
export interface OverviewPage extends PagePlace {
  readonly row: CaptureRow;
  /** What real visits to it, or to its origin, came to. */
  readonly field?: FieldRow;
}

/** What every screen of a site shows of a sweep: its recorded pages and the fixes that they offer. */
export interface SweepOverview {
  readonly device: Device;
  /** Devices that pages of the sweep were recorded as. */
  readonly devices: readonly Device[];
  /** Causes by concern. */
  readonly counts: Readonly<Record<string, number>>;
  readonly pages: readonly OverviewPage[];
  readonly groups: readonly GroupInfo[];
  /** What real visits to the origin of most pages came to. */
  readonly fieldOfOrigin?: FieldRow;
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
  const field = sweep && (await latestField(store, sweep.siteId, device));
  return {
    device,
    devices: await devicesOf(store, sweepId),
    clicksOf: sweep && (await clicksList(store, sweep.siteId))?.name,
    fieldOfOrigin: field && originRow(field, rows),
    counts: (await keepOnce(store, sweepId, `counts ${device}`, () => countCauses(store, sweepId, device))) ?? {},
    pages: rows.map((row) => ({ row, linksIn: 0, field: field?.rowFor(row.page), ...places.get(row.page) })),
    groups: await sweepGroups(store, sweepId, device),
  };
}

function originRow(field: LatestField, rows: readonly CaptureRow[]): FieldRow | undefined {
  const pagesOf = (origin: string) => rows.filter((r) => new URL(r.page).origin === origin).length;
  return field.rows
    .filter((r) => r.of === 'origin' && pagesOf(r.address) > 0)
    .sort((a, b) => pagesOf(b.address) - pagesOf(a.address))[0];
}
