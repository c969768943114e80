import { nextStart } from '../../../../core/watch/schedule';
import { appSetting } from '../../../../engine/store/appSettings';
import { store } from '../../../../engine/services/openedStore';
import { findJob } from '../../../../engine/store/jobs';
import { findSite } from '../../../../engine/store/sites';
import { listDeliveries } from '../../../../engine/store/watch/deliveries';
import { limitResults, listWatchLimits } from '../../../../engine/store/watch/limits';
import { countUnread, listNotices } from '../../../../engine/store/watch/notices';
import { listSchedules } from '../../../../engine/store/watch/schedules';
import { listVisits, listWatched } from '../../../../engine/store/watch/watchedPages';
import { idOf, json, notFound, route } from '../../_answer';
import { shownNotify } from './_notify';

/** Sweeps back to which results of limits are listed. */
const RESULTS_EACH = 24;

/** Everything about the watch of a site. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const now = new Date();
  const results = await limitResults(db, site.id);
  const schedules = await listSchedules(db, site.id);
  const limits = await listWatchLimits(db, site.id);
  return json({
    schedules: await Promise.all(
      schedules.map(async (s) => ({
        ...s,
        nextStart: nextStart(s, now)?.toISOString() ?? null,
        job: s.lastJob === null ? null : ((await findJob(db, s.lastJob)) ?? null),
      })),
    ),
    limits: limits.map((limit) => ({
      ...limit,
      results: results.filter((r) => r.limitId === limit.id).slice(0, RESULTS_EACH),
    })),
    pages: await listWatched(db, site.id),
    visits: await listVisits(db, site.id),
    notices: await listNotices(db, site.id),
    unread: await countUnread(db, site.id),
    notify: await shownNotify(db, site.id),
    deliveries: await listDeliveries(db, site.id),
    hasMailServer: (await appSetting(db, 'mail')) !== undefined,
  });
});
