import { currentSweep } from '../../core/site/currentSweep';
import { findingsNotice, messageOf, type Notice } from '../../core/watch/notices';
import { sweepNews } from '../services/sweepNews';
import { appSetting } from '../store/appSettings';
import { findJob } from '../store/jobs';
import { findSite } from '../store/sites';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import { addDelivery } from '../store/watch/deliveries';
import { listWatchLimits } from '../store/watch/limits';
import { addNotices, notifySettings } from '../store/watch/notices';
import { listSchedules } from '../store/watch/schedules';
import { listWatched } from '../store/watch/watchedPages';
import { judgeSweep } from './judgeSweep';

/**
 * Judges what a job has brought and tells those who want to know, once. A site without schedules, limits, watched
 * pages and recipients is not watched: nothing is said of it.
 */
export async function afterRun(store: Store, jobId: number, now = new Date()): Promise<void> {
  const job = await findJob(store, jobId);
  if (!job?.siteId || !['sweep', 'record', 'probe'].includes(job.kind)) return;
  const { siteId } = job;
  if (!(await isWatched(store, siteId))) return;
  const sweepId = job.sweepId ?? currentSweep(await listSweeps(store, siteId))?.id;
  if (sweepId === undefined) return;
  const notices = await judgeSweep(store, siteId, sweepId, job.kind === 'probe' ? 'probe' : 'pages', now);
  if (job.kind === 'sweep') {
    const { news } = await sweepNews(store, { id: sweepId, siteId }, 'phone');
    const found = news && findingsNotice(news, siteId, sweepId);
    if (found) notices.push(found);
  }
  await tell(store, siteId, notices, now);
}

/** Makes notices known: in the application, and in one message by each way that the site has set. */
export async function tell(store: Store, siteId: number, notices: readonly Notice[], now: Date): Promise<void> {
  const fresh = await addNotices(store, siteId, notices, now);
  const site = await findSite(store, siteId);
  if (fresh.length === 0 || !site) return;
  const to = await notifySettings(store, siteId);
  const message = {
    site: { id: site.id, name: site.name },
    notices: fresh,
    ...messageOf(site.name, fresh, await appSetting(store, 'origin')),
  };
  if (to.mailTo.length > 0) await addDelivery(store, 'mail', message, now);
  if (to.webhook) await addDelivery(store, 'webhook', message, now);
}

async function isWatched(store: Store, siteId: number): Promise<boolean> {
  const to = await notifySettings(store, siteId);
  return (
    to.mailTo.length > 0 ||
    to.webhook !== undefined ||
    (await listSchedules(store, siteId)).length > 0 ||
    (await listWatchLimits(store, siteId)).length > 0 ||
    (await listWatched(store, siteId)).length > 0
  );
}
