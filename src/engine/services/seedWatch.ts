import { DEFAULT_VISITOR } from '../../core/load/visitors';
import { findingsNotice } from '../../core/watch/notices';
import type { WatchLimit } from '../../core/watch/limits';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import { addWatchLimit, listWatchLimits } from '../store/watch/limits';
import { addNotices } from '../store/watch/notices';
import { watchPages } from '../store/watch/watchedPages';
import { judgeSweep } from '../watch/judgeSweep';
import { sweepNews } from './sweepNews';

const ALL = { visitor: DEFAULT_VISITOR.id, scope: { kind: 'all' } } as const;

const LIMITS: readonly WatchLimit[] = [
  { ...ALL, figure: 'lcpMs', bound: 5000, tolerance: 0.1 },
  { ...ALL, figure: 'bytes', bound: 1_500_000, tolerance: 0.1 },
  { ...ALL, figure: 'newFindings', harm: 'broken', bound: 0, tolerance: 0 },
  { ...ALL, figure: 'certificateDays', bound: 21, tolerance: 0 },
];

/** Limits of the demo, what its two sweeps say of them, and two watched pages. What is there already is left alone. */
export async function seedWatch(store: Store, siteId: number): Promise<void> {
  if ((await listWatchLimits(store, siteId)).length > 0) return;
  for (const limit of LIMITS) await addWatchLimit(store, siteId, limit);
  await watchPages(store, siteId, ['https://www.fernhollow.example/', 'https://www.fernhollow.example/plant-sale/']);
  for (const sweep of (await listSweeps(store, siteId)).reverse()) {
    const at = new Date(sweep.endedAt ?? `${sweep.day}T02:00:00.000Z`);
    const notices = await judgeSweep(store, siteId, sweep.id, 'pages', at);
    const { news } = await sweepNews(store, { id: sweep.id, siteId }, 'phone');
    const found = news && findingsNotice(news, siteId, sweep.id);
    await addNotices(store, siteId, found ? [...notices, found] : notices, at);
  }
}
