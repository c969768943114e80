import { parseVisitor, visitorWith } from '../../../../core/load/visitors';
import { boolean, number, string } from 'yup';
import { findingsCsv } from '../../../../core/handover/findingsTable';
import { findingsSarif } from '../../../../core/handover/sarif';
import { VERSION } from '../../../../core/version';
import { effectsOfFixes, findingsOfFix } from '../../../../engine/services/findingsOfFix';
import { findingsSheet } from '../../../../engine/services/sheet';
import { store } from '../../../../engine/services/openedStore';
import { deviceIn } from '../../../../engine/store/captures';
import { listFindings } from '../../../../engine/store/findings';
import { findSweep } from '../../../../engine/store/sweeps';
import { download, idOf, json, notFound, query, route, SHEET_TYPE } from '../../_answer';
import { filterFields, filterOf } from '../../_findingFilter';

const schema = filterFields.shape({
  sort: string().oneOf(['page', 'target', 'check', 'harm', 'title']).default('page'),
  descending: boolean().default(false),
  limit: number().integer().min(1).max(10_000).default(200),
  offset: number().integer().min(0).default(0),
  visitor: string().max(200),
  format: string().oneOf(['json', 'csv', 'sarif', 'xlsx', 'json-file']).default('json'),
});

/** Most rows of one export: more than any spreadsheet opens with pleasure. */
const MOST = 200_000;

/** Findings of a sweep: paged, filtered and sorted; as JSON, or as a file with all that fits: CSV, XLSX, SARIF, JSON. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const q = query(context, schema);
  const device = await deviceIn(db, sweep.id, q.device as 'phone' | 'desktop');
  const all = q.format !== 'json';
  const ids = q.fix ? await findingsOfFix(db, sweep.id, device, q.fix) : undefined;
  const found = await listFindings(db, {
    ...filterOf(q),
    ids,
    sort: q.sort as 'page',
    descending: q.descending,
    sweepId: sweep.id,
    device,
    limit: all ? MOST : q.limit,
    offset: all ? 0 : q.offset,
  });
  const name = `findings-${sweep.day}-${device}`;
  const table = q.format === 'csv' || q.format === 'xlsx';
  const effects = table
    ? await effectsOfFixes(db, sweep.id, device, q.visitor ? parseVisitor(q.visitor) : visitorWith(device))
    : undefined;
  switch (q.format) {
    case 'csv':
      return download(findingsCsv(found.rows, effects), 'text/csv; charset=utf-8', `${name}.csv`);
    case 'xlsx':
      return download(await findingsSheet(found.rows, effects), SHEET_TYPE, `${name}.xlsx`);
    case 'sarif':
      return download(JSON.stringify(findingsSarif(found.rows, VERSION)), 'application/sarif+json', `${name}.sarif`);
    case 'json-file':
      return download(JSON.stringify(found.rows, null, 1), 'application/json', `${name}.json`);
    default:
      return json({ ...found, device, limit: q.limit, offset: q.offset });
  }
});
