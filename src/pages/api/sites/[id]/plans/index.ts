import { store } from '../../../../../engine/services/openedStore';
import { addPlan, listPlans } from '../../../../../engine/store/plans';
import { findSite } from '../../../../../engine/store/sites';
import { body, idOf, json, notFound, route } from '../../../_answer';
import { planContent, planSchema } from './_plan';

/** The plans of a site, the latest first. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listPlans(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Saves a new plan. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json(await addPlan(db, site.id, planContent(await body(context, planSchema))), 201);
});
