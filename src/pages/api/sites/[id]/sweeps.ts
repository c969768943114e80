import { tick } from '../../../../engine/jobs/runner';
import { store } from '../../../../engine/services/openedStore';
import { startSweep } from '../../../../engine/services/startJobs';
import { findSite } from '../../../../engine/store/sites';
import { idOf, json, notFound, route } from '../../_answer';
import { takeSettings } from '../../_sweepSettings';

/** Starts a sweep: settings that are sent are stored with the site, the rest is as stored. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const settings = await takeSettings(db, site, context);
  const job = await startSweep(db, site, settings);
  await tick();
  return json(job, 201);
});
