import { number, object } from 'yup';
import { InputError } from '../../../../../../core/capture/errors';
import { tick } from '../../../../../../engine/jobs/runner';
import { store } from '../../../../../../engine/services/openedStore';
import { doneOf } from '../../../../../../engine/services/planOutcomes';
import { startCheck } from '../../../../../../engine/services/startJobs';
import { openJobs } from '../../../../../../engine/store/jobs';
import { listOutcomes } from '../../../../../../engine/store/outcomes';
import { findPlan } from '../../../../../../engine/store/plans';
import { findSite, siteSettings } from '../../../../../../engine/store/sites';
import { listSweeps } from '../../../../../../engine/store/sweeps';
import { body, idOf, json, notFound, route } from '../../../../_answer';

/** What became of a plan's done fixes whenever they were looked at, the latest first. */
export const GET = route(async (context) => {
  const db = await store();
  const plan = await findPlan(db, idOf(context), idOf(context, 'plan'));
  return plan ? json(await listOutcomes(db, plan.id)) : notFound('There is no such plan.', context.url.pathname);
});

/** Looks at once: records the pages of the done fixes again. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  const plan = site && (await findPlan(db, site.id, idOf(context, 'plan')));
  if (!site || !plan) return notFound('There is no such plan.', context.url.pathname);
  const { sweep } = await body(context, object({ sweep: number().integer().required() }));
  if (!(await listSweeps(db, site.id)).some((s) => s.id === sweep))
    throw new InputError('The site has no such sweep.', 'sweep', 'Reload to see its sweeps.');
  if (doneOf(plan).length === 0)
    throw new InputError(
      'No fix of this plan is said to be done.',
      plan.name,
      'Set a fix to "done", save, then check.',
    );
  if ((await openJobs(db, site.id)).some((j) => j.kind === 'check'))
    throw new InputError('A check of this site is already running.', plan.name, 'Wait for it, or cancel it.');
  const settings = await siteSettings(db, site);
  const job = await startCheck(db, site, sweep, { siteId: site.id, planId: plan.id, settings }, plan.name);
  await tick();
  return json(job, 202);
});
