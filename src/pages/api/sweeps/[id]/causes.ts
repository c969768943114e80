import { number, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { firstFixes } from '../../../../core/plan/firstFixes';
import { findingsOfFix } from '../../../../engine/services/findingsOfFix';
import { LISTED_CAUSES, listedCauses } from '../../../../engine/services/listedCauses';
import { CAUSE_SORTS, rateCauses, type CauseSort } from '../../../../engine/services/ratedCauses';
import { keptGains, sweepGroups } from '../../../../engine/services/sweepForecasts';
import { deviceIn } from '../../../../engine/store/captures';
import { json, notFound, query } from '../../_answer';
import { sweepRoute } from '../../_sweep';
import { filterFields, filterOf } from '../../_findingFilter';

const schema = filterFields.shape({
  visitor: string().default(DEFAULT_VISITOR.id),
  sort: string()
    .oneOf([...CAUSE_SORTS])
    .default('impact'),
  limit: number().integer().min(1).max(2000).default(LISTED_CAUSES),
  shown: number().integer().min(1),
});

/**
 * Findings of a sweep grouped by the change that removes them, with what they can be narrowed by. The worst `limit` are
 * rated by what a visitor gains, once that has been forecast, and sorted; `shown` says how many of them are sent, with the
 * first fixes of each.
 */
export const GET = sweepRoute(async (context, db, sweep) => {
  const q = query(context, schema);
  const device = await deviceIn(db, sweep.id, q.device as 'phone' | 'desktop');
  const ids = q.fix ? await findingsOfFix(db, sweep.id, device, q.fix) : undefined;
  const filter = { ...filterOf(q), ids, sweepId: sweep.id, device };
  const found = await listedCauses(db, { ...filter, limit: q.limit });
  if (!found) return notFound('There is no such sweep.', context.url.pathname);
  const gains = await keptGains(db, sweep.id, parseVisitor(q.visitor));
  const all = rateCauses(found.causes, gains, q.sort as CauseSort);
  const causes = all.slice(0, q.shown);
  const fixes = firstFixes(causes, await sweepGroups(db, sweep.id, device));
  return json({ ...found, listed: all.length, rated: gains !== undefined, causes, fixes });
});
