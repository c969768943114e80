import { number, object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { store } from '../../../../engine/services/openedStore';
import { planSweep } from '../../../../engine/services/planSweep';
import { findSweep } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../_answer';

const schema = object({
  visitor: string().default(DEFAULT_VISITOR.id),
  minutes: number().min(0).max(100_000).default(240),
});

/** The best plan for an effort over all captures of a sweep. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const { visitor, minutes } = query(context, schema);
  return json(await planSweep(db, sweep.id, parseVisitor(visitor), minutes));
});
