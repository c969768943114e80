import type { Device } from '../../core/capture/capture';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import {
  compareFacts,
  compareFiles,
  comparePages,
  compareProbes,
  type PageFigures,
  type ShownComparison,
  type SweepComparison,
} from '../../core/pictures/compare';
import { codeStamp } from '../codeStamp';
import { deviceIn, listCaptures } from '../store/captures';
import { comparedFacts } from '../store/comparedFacts';
import { probeOfSweep } from '../store/probes';
import { keepOnce } from '../store/kept';
import type { Store } from '../store/store';
import { pageTimes } from './pageTimes';
import { heldFiles } from './sweepFiles';
import { statesOf, stayedCauses, sweepNews } from './sweepNews';

type Sweep = { readonly id: number; readonly siteId: number; readonly day: string };

/**
 * Holds a sweep against an older one: both are simulated for the same visitor, so that a busy server on one of the days
 * does not count. Undefined where there is no other sweep with recordings.
 * @param other the sweep to hold it against; the one before it if not stated
 */
export async function compareSweeps(
  store: Store,
  sweep: Sweep,
  visitor: Visitor,
  other?: number,
): Promise<ShownComparison | undefined> {
  const device = await deviceIn(store, sweep.id, deviceOf(visitor));
  const { against, news } = await sweepNews(store, sweep, device, other);
  if (!against || !news) return undefined;
  const name = `compare ${visitor.id} ${device} ${await statesOf(store, [against])} ${codeStamp()}`;
  const recorded = await keepOnce(store, sweep.id, name, () =>
    compareRecorded(store, sweep, against.id, visitor, device),
  );
  if (!recorded) return undefined;
  const facts = await comparedFacts(store, against.id, sweep.id);
  const [probedThen, probedNow] = [await probeOfSweep(store, against.id), await probeOfSweep(store, sweep.id)];
  return {
    then: against,
    now: { id: sweep.id, day: sweep.day },
    device,
    news,
    ...recorded,
    facts: compareFacts(facts.changed),
    pagesOfBoth: facts.both,
    ...(probedThen && probedNow && { entrances: compareProbes(probedThen, probedNow) }),
  };
}

/** A comparison with the pages of causes that stayed, too: what its files hold. */
export async function withPagesOfStayed(store: Store, sweep: Sweep, found: ShownComparison): Promise<SweepComparison> {
  return { ...found, stayed: await stayedCauses(store, sweep, found.device, found.then.id) };
}

/** What two sweeps have recorded, beside each other. */
async function compareRecorded(
  store: Store,
  sweep: Sweep,
  against: number,
  visitor: Visitor,
  device: Device,
): Promise<Pick<ShownComparison, 'pages' | 'stayed' | 'files'>> {
  const [then, now] = await Promise.all([
    figuresOf(store, against, visitor, device),
    figuresOf(store, sweep.id, visitor, device),
  ]);
  const pages = comparePages(then, now);
  const both = pages.filter((p) => p.then && p.now);
  const captures = (when: 'then' | 'now') => new Set(both.map((p) => p[when]?.captureId ?? 0));
  const [filesThen, filesNow] = [await heldFiles(store, against, device), await heldFiles(store, sweep.id, device)];
  const stayed = await stayedCauses(store, sweep, device, against);
  return {
    pages,
    stayed: stayed.map((c) => ({ ...c, pages: c.pages.length })),
    files: compareFiles(filesThen?.files ?? [], filesNow?.files ?? [], {
      then: captures('then'),
      now: captures('now'),
    }),
  };
}

async function figuresOf(
  store: Store,
  sweepId: number,
  visitor: Visitor,
  wanted: Device,
): Promise<Map<string, PageFigures & { title: string }>> {
  const device = await deviceIn(store, sweepId, wanted);
  const times = new Map((await pageTimes(store, sweepId, visitor)).map((p) => [p.captureId, p]));
  return new Map(
    (await listCaptures(store, sweepId, device)).flatMap((row) => {
      const time = times.get(row.id);
      if (!time) return [];
      const { id: captureId, title, bytes } = row;
      return [[row.page, { captureId, title, bytes, lcpMs: time.nowMs, fcpMs: time.nowFcpMs }] as const];
    }),
  );
}
