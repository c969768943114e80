import type { Device } from '../../core/capture/capture';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import {
  compareFacts,
  compareFiles,
  comparePages,
  compareProbes,
  type PageFigures,
  type SweepComparison,
} from '../../core/pictures/compare';
import { deviceIn, listCaptures } from '../store/captures';
import { comparedFacts } from '../store/comparedFacts';
import { probeOfSweep } from '../store/probes';
import type { Store } from '../store/store';
import { forecastInThread } from './sweepForecasts';
import { heldFiles } from './sweepFiles';
import { stayedCauses, sweepNews } from './sweepNews';

/**
 * Holds a sweep against an older one: both are simulated for the same visitor, so that a busy server on one of the days
 * does not count. Undefined where there is no other sweep with recordings.
 * @param other the sweep to hold it against; the one before it if not stated
 */
export async function compareSweeps(
  store: Store,
  sweep: { readonly id: number; readonly siteId: number; readonly day: string },
  visitor: Visitor,
  other?: number,
): Promise<SweepComparison | undefined> {
  const device = await deviceIn(store, sweep.id, deviceOf(visitor));
  const { against, news } = await sweepNews(store, sweep, device, other);
  if (!against || !news) return undefined;
  const [then, now] = await Promise.all([
    figuresOf(store, against.id, visitor, device),
    figuresOf(store, sweep.id, visitor, device),
  ]);
  const pages = comparePages(then, now);
  const both = pages.filter((p) => p.then && p.now);
  const captures = (when: 'then' | 'now') => new Set(both.map((p) => p[when]?.captureId ?? 0));
  const [filesThen, filesNow] = [await heldFiles(store, against.id, device), await heldFiles(store, sweep.id, device)];
  const facts = await comparedFacts(store, against.id, sweep.id);
  const [probedThen, probedNow] = [await probeOfSweep(store, against.id), await probeOfSweep(store, sweep.id)];
  return {
    then: against,
    now: { id: sweep.id, day: sweep.day },
    device,
    pages,
    news,
    stayed: await stayedCauses(store, sweep, device, other),
    files: compareFiles(filesThen?.files ?? [], filesNow?.files ?? [], {
      then: captures('then'),
      now: captures('now'),
    }),
    facts: compareFacts(facts.changed),
    pagesOfBoth: facts.both,
    ...(probedThen && probedNow && { entrances: compareProbes(probedThen, probedNow) }),
  };
}

async function figuresOf(
  store: Store,
  sweepId: number,
  visitor: Visitor,
  wanted: Device,
): Promise<Map<string, PageFigures & { title: string }>> {
  const device = await deviceIn(store, sweepId, wanted);
  const forecast = await forecastInThread(store, sweepId, visitor);
  const times = new Map((forecast?.pages ?? []).map((p) => [p.captureId, p]));
  return new Map(
    (await listCaptures(store, sweepId, device)).flatMap((row) => {
      const time = times.get(row.id);
      if (!time) return [];
      const { id: captureId, title, bytes } = row;
      return [[row.page, { captureId, title, bytes, lcpMs: time.nowMs, fcpMs: time.nowFcpMs }] as const];
    }),
  );
}
