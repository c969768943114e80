import { boolean, number, object, string } from 'yup';
import { PAGE_COLUMNS, pagesCsv, pagesTable, type PageColumn } from '../../../../../core/handover/pagesTable';
import { readPageFilter } from '../../../../../core/site/pageFilter';
import { workbook } from '../../../../../engine/services/sheet';
import { listPages, SORTS, type PageRow } from '../../../../../engine/store/pageList';
import { capturesByPage } from '../../../../../engine/store/pageCaptures';
import { download, json, query, SHEET_TYPE } from '../../../_answer';
import { sweepRoute } from '../../../_sweep';

const schema = object({
  sort: string<keyof PageRow>().oneOf(SORTS).default('linksIn'),
  descending: boolean().default(true),
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(1).max(1000).default(200),
  columns: string().max(1000),
  format: string().oneOf(['json', 'csv', 'xlsx']).default('json'),
});

/** Pages of a sweep with their facts: filtered, sorted, a window at a time; `format=csv` and `xlsx` give all that fit. */
export const GET = sweepRoute(async (context, db, sweep) => {
  const q = query(context, schema);
  const filter = readPageFilter((name) => context.url.searchParams.get(name));
  if (q.format !== 'json') {
    const wanted = (q.columns ?? '').split(',').filter((c): c is PageColumn => c in PAGE_COLUMNS);
    const { rows } = await listPages(db, sweep.id, filter, { ...q, offset: 0, limit: 1_000_000 });
    const columns = wanted.length > 0 ? wanted : (Object.keys(PAGE_COLUMNS) as PageColumn[]);
    if (q.format === 'xlsx') {
      const sheet = await workbook([{ name: 'Pages', ...pagesTable(rows, columns) }]);
      return download(sheet, SHEET_TYPE, `pages-${sweep.day}.xlsx`);
    }
    return download(pagesCsv(rows, columns), 'text/csv; charset=utf-8', `pages-${sweep.day}.csv`);
  }
  const found = await listPages(db, sweep.id, filter, q);
  return json({ ...found, offset: q.offset, captures: await capturesByPage(db, sweep.id, found.rows) });
});
