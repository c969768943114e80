import { number, object, string } from 'yup';
import { VERDICTS } from '../../../../core/site/entrances';
import { listedEntrances } from '../../../../core/site/listedEntrances';
import { currentSweep } from '../../../../core/site/currentSweep';
import { tick } from '../../../../engine/jobs/runner';
import { store } from '../../../../engine/services/openedStore';
import { startProbe } from '../../../../engine/services/startJobs';
import { lastProbe, probeTimes } from '../../../../engine/store/probes';
import { findSite, siteSettings } from '../../../../engine/store/sites';
import { listSweeps } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../_answer';

/** `rows` of the table of a screen: only what that shows of the addresses; `verdict` narrows the table. */
const asked = object({
  rows: number().integer().min(1).max(1000).default(undefined),
  verdict: string().oneOf(VERDICTS).default(undefined),
});

/** The last probe of a site: every way in, certificates, HSTS, https versions. `probe` is null before there is one. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const { rows, verdict } = query(context, asked);
  const probe = (await lastProbe(db, site.id)) ?? null;
  const listed = probe && rows !== undefined && listedEntrances(probe.entrances, rows, verdict);
  return json({ probe: listed ? { ...probe, ...listed } : probe, times: await probeTimes(db, site.id) });
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
