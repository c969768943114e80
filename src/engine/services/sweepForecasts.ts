import { deviceOf, type Visitor } from '../../core/load/visitors';
import {
  forecastSweep,
  groupInfos,
  type ForecastPage,
  type GroupInfo,
  type SweepForecast,
} from '../../core/plan/sweepForecast';
import type { Device } from '../../core/capture/capture';
import { codeStamp } from '../codeStamp';
import { keepOnce, readKept, revisionOf } from '../store/kept';
import type { Store } from '../store/store';
import { benchPages } from './benchPages';
import { inSweepThread } from './sweepThread';

/**
 * Forecasts of a sweep's recorded pages while nothing is on the bench: made for the built-in visitors when a job ends,
 * for others when they are first asked for, and kept until the sweep's captures or mutes change.
 */

const forecastName = (visitor: Visitor) => `forecast ${visitor.id} ${codeStamp()}`;

/** The forecast for a visitor if it has been made. */
export function keptForecast(store: Store, sweepId: number, visitor: Visitor): Promise<SweepForecast | undefined> {
  return readKept(store, sweepId, forecastName(visitor));
}

/** The forecast for a visitor: the kept one, else made in this thread, which takes a second or two. */
export async function makeForecast(
  store: Store,
  sweepId: number,
  visitor: Visitor,
): Promise<SweepForecast | undefined> {
  return keepOnce(store, sweepId, forecastName(visitor), async () =>
    forecastSweep(await forecastPages(store, sweepId, deviceOf(visitor)), visitor),
  );
}

/** As `makeForecast`, but in a thread of its own, and once however many ask for it. */
export async function forecastInThread(
  store: Store,
  sweepId: number,
  visitor: Visitor,
): Promise<SweepForecast | undefined> {
  const known = await keptForecast(store, sweepId, visitor);
  if (known || (await revisionOf(store, sweepId)) === undefined) return known;
  return inSweepThread(store, sweepId, { make: 'forecast', visitor: visitor.id });
}

/** The groups of fixes that the recorded pages of a sweep offer; worked out once. */
export async function sweepGroups(store: Store, sweepId: number, device: Device): Promise<readonly GroupInfo[]> {
  const make = async () => groupInfos(await forecastPages(store, sweepId, device));
  return (await keepOnce(store, sweepId, `groups ${device} ${codeStamp()}`, make)) ?? [];
}

async function forecastPages(store: Store, sweepId: number, device: Device): Promise<ForecastPage[]> {
  const { pages } = await benchPages(store, sweepId, device);
  return pages.map(({ row, graph, fixes, concerns }) => ({ captureId: row.id, graph, fixes, concerns }));
}
