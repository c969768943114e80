import { number, object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { TASK_COLUMNS, taskRows, tasksMarkdown } from '../../../../core/handover/tasks';
import { toCsv } from '../../../../core/handover/csv';
import { store } from '../../../../engine/services/openedStore';
import { planTasks } from '../../../../engine/services/planTasks';
import { tasksSheet } from '../../../../engine/services/sheet';
import { findPlan } from '../../../../engine/store/plans';
import { findSite } from '../../../../engine/store/sites';
import { findSweep } from '../../../../engine/store/sweeps';
import { download, idOf, json, notFound, query, route, SHEET_TYPE } from '../../_answer';

const schema = object({
  visitor: string().default(DEFAULT_VISITOR.id),
  bench: string().max(2000).default(''),
  scope: string().max(2000).default(''),
  plan: number().integer().min(1),
  format: string().oneOf(['json', 'md', 'csv', 'xlsx']).default('json'),
});

/** The fixes of a bench as tasks: JSON, or a file to hand over (Markdown, CSV, XLSX). */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  const site = sweep && (await findSite(db, sweep.siteId));
  if (!sweep || !site) return notFound('There is no such sweep.', context.url.pathname);
  const q = query(context, schema);
  const plan = q.plan === undefined ? undefined : await findPlan(db, site.id, q.plan);
  if (q.plan !== undefined && !plan) return notFound('There is no such plan.', context.url.pathname);
  const made = await planTasks(db, sweep, site.name, {
    visitor: parseVisitor(q.visitor),
    bench: q.bench.split('.').filter(Boolean),
    scope: q.scope,
    plan,
  });
  const name = `tasks-${sweep.day}`;
  switch (q.format) {
    case 'md':
      return download(tasksMarkdown(made.head, made.tasks), 'text/markdown; charset=utf-8', `${name}.md`);
    case 'csv':
      return download(toCsv(TASK_COLUMNS, taskRows(made.tasks)), 'text/csv; charset=utf-8', `${name}.csv`);
    case 'xlsx':
      return download(await tasksSheet(made.tasks), SHEET_TYPE, `${name}.xlsx`);
    default:
      return json(made);
  }
});
