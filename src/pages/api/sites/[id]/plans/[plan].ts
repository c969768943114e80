import { store } from '../../../../../engine/services/openedStore';
import { changePlan, findPlan, removePlan } from '../../../../../engine/store/plans';
import { body, idOf, json, notFound, route } from '../../../_answer';
import { planContent, planSchema } from './_plan';

const missing = (path: string) => notFound('There is no such plan.', path);

/** One plan. */
export const GET = route(async (context) => {
  const plan = await findPlan(await store(), idOf(context), idOf(context, 'plan'));
  return plan ? json(plan) : missing(context.url.pathname);
});

/** Saves a plan over. */
export const PUT = route(async (context) => {
  const content = planContent(await body(context, planSchema));
  const plan = await changePlan(await store(), idOf(context), idOf(context, 'plan'), content);
  return plan ? json(plan) : missing(context.url.pathname);
});

/** Deletes a plan. */
export const DELETE = route(async (context) => {
  const gone = await removePlan(await store(), idOf(context), idOf(context, 'plan'));
  return gone ? new Response(null, { status: 204 }) : missing(context.url.pathname);
});
