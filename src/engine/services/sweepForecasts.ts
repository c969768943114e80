import { deviceOf, type Visitor } from '../../core/load/visitors';
import {
  findingsByGroup,
  forecastSweep,
  gainsOf,
  groupInfos,
  type ForecastPage,
  type GroupGains,
  type GroupInfo,
  type SweepForecast,
} from '../../core/plan/sweepForecast';
import type { Device } from '../../core/capture/capture';
import { codeStamp } from '../codeStamp';
import { deviceIn } from '../store/captures';
import { isKept, keepOnce, readKept, revisionOf } from '../store/kept';
import type { Store } from '../store/store';
import { benchPages } from './benchPages';
import { inSweepThread } from './sweepThread';

/**
 * Forecasts of a sweep's recorded pages while nothing is on the bench: made for the built-in visitors when a job ends,
 * for others when they are first asked for, and kept until the sweep's captures or mutes change.
 */

const forecastName = (visitor: Visitor) => `forecast ${visitor.id} ${codeStamp()}`;
const gainsName = (visitor: Visitor) => `gains ${visitor.id} ${codeStamp()}`;

/** The forecast for a visitor if it has been made. */
export function keptForecast(store: Store, sweepId: number, visitor: Visitor): Promise<SweepForecast | undefined> {
  return readKept(store, sweepId, forecastName(visitor));
}

/** Whether the forecast for a visitor has been made. */
export const forecastIsKept = (store: Store, sweepId: number, visitor: Visitor): Promise<boolean> =>
  isKept(store, sweepId, forecastName(visitor));

/** The forecast for a visitor: the kept one, else made in this thread, which takes a second or two. */
export async function makeForecast(
  store: Store,
  sweepId: number,
  visitor: Visitor,
): Promise<SweepForecast | undefined> {
  return keepOnce(store, sweepId, forecastName(visitor), async () => {
    const pages = await forecastPages(store, sweepId, deviceOf(visitor));
    const gains = await keepOnce(store, sweepId, gainsName(visitor), async () => gainsOf(pages, visitor));
    return forecastSweep(pages, visitor, gains);
  });
}

/** What each group of fixes wins alone on each page, if the forecast has been made. */
export function keptGains(store: Store, sweepId: number, visitor: Visitor): Promise<GroupGains[] | undefined> {
  return readKept(store, sweepId, gainsName(visitor));
}

/** The same; where there is none, the forecast is made first, in a thread of its own. */
export async function gainsInThread(
  store: Store,
  sweepId: number,
  visitor: Visitor,
): Promise<GroupGains[] | undefined> {
  const known = await keptGains(store, sweepId, visitor);
  if (known || !(await forecastInThread(store, sweepId, visitor))) return known;
  return (
    (await keptGains(store, sweepId, visitor)) ?? inSweepThread(store, sweepId, { make: 'gains', visitor: visitor.id })
  );
}

/** The same, made in this thread where it is not kept. */
export const makeGains = (store: Store, sweepId: number, visitor: Visitor): Promise<GroupGains[] | undefined> =>
  keepOnce(store, sweepId, gainsName(visitor), async () =>
    gainsOf(await forecastPages(store, sweepId, deviceOf(visitor)), visitor),
  );

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
export async function sweepGroups(store: Store, sweepId: number, wanted: Device): Promise<readonly GroupInfo[]> {
  const device = await deviceIn(store, sweepId, wanted);
  const make = async () => groupInfos(await forecastPages(store, sweepId, device));
  return (await keepOnce(store, sweepId, `groups ${device} ${codeStamp()}`, make)) ?? [];
}

/** Ids of the findings that each group of fixes removes; worked out once. */
export async function findingsOfGroups(
  store: Store,
  sweepId: number,
  wanted: Device,
): Promise<readonly (readonly [group: string, findings: readonly string[]])[]> {
  const device = await deviceIn(store, sweepId, wanted);
  const make = async () => findingsByGroup(await forecastPages(store, sweepId, device));
  return (await keepOnce(store, sweepId, `findings by group ${device} ${codeStamp()}`, make)) ?? [];
}

/** The groups of fixes that remove each finding of a sweep, by the finding. */
export async function groupsByFinding(
  store: Store,
  sweepId: number,
  device: Device,
): Promise<ReadonlyMap<string, readonly string[]>> {
  const lists = await findingsOfGroups(store, sweepId, device);
  const out = new Map<string, string[]>();
  for (const [group, findings] of lists)
    for (const id of findings) {
      const own = out.get(id);
      if (own) own.push(group);
      else out.set(id, [group]);
    }
  return out;
}

async function forecastPages(store: Store, sweepId: number, device: Device): Promise<ForecastPage[]> {
  const { pages } = await benchPages(store, sweepId, device);
  return pages.map(({ row, graph, fixes, concerns }) => ({ captureId: row.id, graph, fixes, concerns }));
}
