import { boolean, number, object, string } from 'yup';
import { findingsCsv } from '../../../../core/handover/findingsTable';
import { findingsSarif } from '../../../../core/handover/sarif';
import { store } from '../../../../engine/services/openedStore';
import { deviceIn } from '../../../../engine/store/captures';
import { listFindings } from '../../../../engine/store/findings';
import { findSweep } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../_answer';
import { VERSION } from '../../../../core/version';

const schema = object({
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  concern: string().oneOf(['https', 'mixed', 'hero', 'weight', 'blocking']),
  harm: string().oneOf(['broken', 'exposed', 'slow', 'tidy']),
  check: string().max(60),
  search: string().max(200),
  sort: string().oneOf(['page', 'target', 'check', 'harm', 'title']).default('page'),
  descending: boolean().default(false),
  limit: number().integer().min(1).max(10_000).default(200),
  offset: number().integer().min(0).default(0),
  format: string().oneOf(['json', 'csv', 'sarif']).default('json'),
});

/** Findings of a sweep: paged, filtered and sorted; as JSON, CSV or SARIF. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const q = query(context, schema);
  const device = await deviceIn(db, sweep.id, q.device as 'phone' | 'desktop');
  const all = q.format !== 'json';
  const found = await listFindings(db, {
    ...q,
    sort: q.sort as 'page',
    sweepId: sweep.id,
    device,
    limit: all ? 10_000 : q.limit,
    offset: all ? 0 : q.offset,
  });
  const name = `findings-${sweep.day}-${device}`;
  if (q.format === 'csv') return download(findingsCsv(found.rows), 'text/csv; charset=utf-8', `${name}.csv`);
  if (q.format === 'sarif')
    return download(JSON.stringify(findingsSarif(found.rows, VERSION)), 'application/sarif+json', `${name}.sarif`);
  return json({ ...found, device, limit: q.limit, offset: q.offset });
});

function download(text: string, type: string, name: string): Response {
  return new Response(text, {
    headers: { 'content-type': type, 'content-disposition': `attachment; filename="${name}"` },
  });
}
