import { isEnough, roleOn } from '../../../../../core/people/roles';
import { onlyStatesDiffer } from '../../../../../core/plan/mergePlans';
import { store } from '../../../../../engine/services/openedStore';
import { findPlan, removePlan, savePlanOver } from '../../../../../engine/store/plans';
import { body, idOf, json, notFound, route } from '../../../_answer';
import { planContent, planSchema } from './_plan';

const missing = (path: string) => notFound('There is no such plan.', path);

/** One plan. */
export const GET = route(async (context) => {
  const plan = await findPlan(await store(), idOf(context), idOf(context, 'plan'));
  return plan ? json(plan) : missing(context.url.pathname);
});

const schema = planSchema.shape({ base: planSchema.default(undefined) });

/**
 * Saves a plan over. With `base`, the plan as the change began from it, what others have changed since stays; where both
 * changed the same, the answer's `conflicts` say what was there.
 */
export const PUT = route(async (context) => {
  const input = await body(context, schema);
  const at = { siteId: idOf(context), id: idOf(context, 'plan') };
  const base = input.base && planContent(input.base);
  const roles = context.locals.who?.roles;
  const mayAll = roles === undefined || isEnough(roleOn(roles, at.siteId), 'auditor');
  const mayChange = mayAll ? () => true : onlyStatesDiffer;
  const plan = await savePlanOver(await store(), at, planContent(input), base, mayChange);
  return plan ? json(plan) : missing(context.url.pathname);
});

/** Deletes a plan. */
export const DELETE = route(async (context) => {
  const gone = await removePlan(await store(), idOf(context), idOf(context, 'plan'));
  return gone ? new Response(null, { status: 204 }) : missing(context.url.pathname);
});
