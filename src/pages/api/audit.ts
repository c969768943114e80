import { number, object, string } from 'yup';
import { toCsv } from '../../core/handover/csv';
import { store } from '../../engine/services/openedStore';
import { listChanges } from '../../engine/store/people/auditLog';
import { download, json, query, route } from './_answer';

const schema = object({
  who: string().max(200),
  site: number().integer().min(1),
  before: number().integer().min(1),
  limit: number().integer().min(1).max(10_000).default(100),
  format: string().oneOf(['json', 'csv']).default('json'),
});

/** Who changed what, the latest first. */
export const GET = route(async (context) => {
  const { who, site, before, limit, format } = query(context, schema);
  const rows = await listChanges(await store(), { who, siteId: site, before, limit });
  if (format === 'json') return json(rows);
  const columns = ['time', 'who', 'what', 'method', 'path', 'site', 'address'];
  const cells = rows.map((r) => [r.at, r.who, r.says, r.method, r.path, r.siteId ?? '', r.address]);
  return download(toCsv(columns, cells), 'text/csv; charset=utf-8', 'changes.csv');
});
