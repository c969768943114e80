import { number } from 'yup';
import { store } from '../../../../engine/services/openedStore';
import { deviceIn } from '../../../../engine/store/captures';
import { findingsOfFix } from '../../../../engine/services/findingsOfFix';
import { LISTED_CAUSES, listedCauses } from '../../../../engine/services/listedCauses';
import { findSweep } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../_answer';
import { filterFields, filterOf } from '../../_findingFilter';

const schema = filterFields.shape({ limit: number().integer().min(1).max(2000).default(LISTED_CAUSES) });

/** Findings of a sweep grouped by the change that removes them, with what they can be narrowed by. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const q = query(context, schema);
  const device = await deviceIn(db, sweep.id, q.device as 'phone' | 'desktop');
  const ids = q.fix ? await findingsOfFix(db, sweep.id, device, q.fix) : undefined;
  const filter = { ...filterOf(q), ids, sweepId: sweep.id, device };
  const found = await listedCauses(db, { ...filter, limit: q.limit });
  return found ? json(found) : notFound('There is no such sweep.', context.url.pathname);
});
