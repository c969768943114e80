import { currentSweep } from '../../../../core/site/currentSweep';
import { tick } from '../../../../engine/jobs/runner';
import { store } from '../../../../engine/services/openedStore';
import { startProbe } from '../../../../engine/services/startJobs';
import { lastProbe, probeTimes } from '../../../../engine/store/probes';
import { findSite, siteSettings } from '../../../../engine/store/sites';
import { listSweeps } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, route } from '../../_answer';

/** The last probe of a site: every way in, certificates, HSTS, https versions. `probe` is null before there is one. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json({ probe: (await lastProbe(db, site.id)) ?? null, times: await probeTimes(db, site.id) });
});

/** Asks for every way in anew, as a job. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const sweep = currentSweep(await listSweeps(db, site.id));
  const job = await startProbe(db, site, sweep?.id ?? null, await siteSettings(db, site));
  await tick();
  return json(job, 201);
});
