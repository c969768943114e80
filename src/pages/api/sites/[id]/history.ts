import { object, string } from 'yup';
import { CONCERNS, type Concern, type Harm } from '../../../../core/checks/concern';
import { toCsv } from '../../../../core/handover/csv';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { parseScope } from '../../../../core/plan/plan';
import { HISTORY_FIGURES } from '../../../../core/watch/history';
import { figureHistory } from '../../../../engine/services/figureHistory';
import { store } from '../../../../engine/services/openedStore';
import { findSite } from '../../../../engine/store/sites';
import { download, idOf, json, notFound, query, route } from '../../_answer';

const schema = object({
  figure: string()
    .oneOf([...HISTORY_FIGURES])
    .default('lcpMs'),
  visitor: string().default(DEFAULT_VISITOR.id),
  scope: string().max(3000).default(''),
  concern: string().oneOf(CONCERNS.map((c) => c.id)),
  harm: string().oneOf(['broken', 'exposed', 'slow', 'tidy']),
  format: string().oneOf(['json', 'csv']).default('json'),
});

/** A figure over all sweeps of a site, with what happened meanwhile. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const q = query(context, schema);
  const question = {
    figure: q.figure as (typeof HISTORY_FIGURES)[number],
    scope: parseScope(q.scope),
    concern: q.concern as Concern | undefined,
    harm: q.harm as Harm | undefined,
  };
  const history = await figureHistory(db, site.id, question, parseVisitor(q.visitor));
  if (q.format === 'json') return json(history);
  const rows = history.points.map((p) => [p.day, p.value, p.range?.[0] ?? '', p.range?.[1] ?? '', p.pages]);
  return download(toCsv(['day', q.figure, 'low', 'high', 'pages'], rows), 'text/csv; charset=utf-8', `${q.figure}.csv`);
});
