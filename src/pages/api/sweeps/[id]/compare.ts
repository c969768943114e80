import { number, object, string } from 'yup';
import { CONCERNS, type Concern } from '../../../../core/checks/concern';
import { COMPARISON_PARTS, comparisonTable, type ComparisonPart } from '../../../../core/handover/comparisonTable';
import { toCsv } from '../../../../core/handover/csv';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { compareSweeps, withPagesOfStayed } from '../../../../engine/services/compareSweeps';
import { workbook } from '../../../../engine/services/sheet';
import { download, json, notFound, query, SHEET_TYPE } from '../../_answer';
import { sweepRoute } from '../../_sweep';

const schema = object({
  visitor: string().default(DEFAULT_VISITOR.id),
  with: number().integer().min(1),
  part: string()
    .oneOf([...COMPARISON_PARTS])
    .default('pages'),
  concern: string().oneOf(CONCERNS.map((c) => c.id)),
  format: string().oneOf(['json', 'csv', 'xlsx']).default('json'),
});

/**
 * A sweep compared with an older one, the one before or `with`; null where there is none. As a file: one part as CSV, all
 * of them as XLSX.
 */
export const GET = sweepRoute(async (context, db, sweep) => {
  const q = query(context, schema);
  const found = await compareSweeps(db, sweep, parseVisitor(q.visitor), q.with);
  if (q.format === 'json') return json(found ?? null);
  if (!found) return notFound('There is no other sweep with recordings.', context.url.pathname);
  const whole = await withPagesOfStayed(db, sweep, found);
  const name = `then-and-now-${found.then.day}-${found.now.day}`;
  if (q.format === 'csv') {
    const { columns, rows } = comparisonTable(whole, q.part as ComparisonPart, q.concern as Concern | undefined);
    return download(toCsv(columns, rows), 'text/csv; charset=utf-8', `${name}-${q.part}.csv`);
  }
  const tables = COMPARISON_PARTS.map((part) => ({ name: part, ...comparisonTable(whole, part) }));
  return download(await workbook(tables), SHEET_TYPE, `${name}.xlsx`);
});
