import { tick } from '../../../../engine/jobs/runner';
import { store } from '../../../../engine/services/openedStore';
import { startChanges } from '../../../../engine/services/startJobs';
import { findSite, siteSettings } from '../../../../engine/store/sites';
import { idOf, json, notFound, route } from '../../_answer';

/** Visits the watched pages of a site now. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const job = await startChanges(db, site, await siteSettings(db, site));
  void tick();
  return json(job, 201);
});
