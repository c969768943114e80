import { simulate } from '../../core/load/simulate';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import type { SweepForecast } from '../../core/plan/sweepForecast';
import { codeStamp } from '../codeStamp';
import { auditsOf, deviceIn, listCaptures } from '../store/captures';
import { isKept, keepOnce, readKept, revisionOf } from '../store/kept';
import type { Store } from '../store/store';
import { forecastIsKept, keptForecast } from './sweepForecasts';
import { inSweepThread } from './sweepThread';

/** Hero and first paint of recorded pages without any fix, by the capture. */
export type PageTimes = SweepForecast['pages'];

const timesName = (visitor: Visitor) => `times ${visitor.id} ${codeStamp()}`;

/**
 * Simulated times of a sweep's recorded pages: of its forecast if that has been made, else worked out by themselves, in a
 * thread of their own. One simulation a page, where a forecast takes one for each fix as well. Empty for a sweep that is
 * not there.
 */
export async function pageTimes(store: Store, sweepId: number, visitor: Visitor): Promise<PageTimes> {
  const known = await knownTimes(store, sweepId, visitor);
  if (known || (await revisionOf(store, sweepId)) === undefined) return known ?? [];
  return (await inSweepThread<PageTimes>(store, sweepId, { make: 'times', visitor: visitor.id })) ?? [];
}

/** Whether they are there already, in a forecast or by themselves. */
export const timesAreKept = async (store: Store, sweepId: number, visitor: Visitor): Promise<boolean> =>
  (await forecastIsKept(store, sweepId, visitor)) || isKept(store, sweepId, timesName(visitor));

/** The same, made in this thread where it is not kept. */
export async function makePageTimes(store: Store, sweepId: number, visitor: Visitor): Promise<PageTimes> {
  const make = async (): Promise<PageTimes> => {
    const rows = await listCaptures(store, sweepId, await deviceIn(store, sweepId, deviceOf(visitor)));
    const times: PageTimes[number][] = [];
    for await (const { row, audit } of auditsOf(store, rows)) {
      const { lcpMs, fcpMs } = simulate(audit.graph, visitor).milestones;
      times.push({ captureId: row.id, nowMs: lcpMs, nowFcpMs: fcpMs });
    }
    return times;
  };
  return (
    (await knownTimes(store, sweepId, visitor)) ?? (await keepOnce(store, sweepId, timesName(visitor), make)) ?? []
  );
}

const knownTimes = async (store: Store, sweepId: number, visitor: Visitor): Promise<PageTimes | undefined> =>
  (await keptForecast(store, sweepId, visitor))?.pages ?? readKept<PageTimes>(store, sweepId, timesName(visitor));
