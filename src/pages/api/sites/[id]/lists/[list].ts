import { number, object, string } from 'yup';
import { currentSweep } from '../../../../../core/site/currentSweep';
import { fatesCsv } from '../../../../../core/handover/fatesTable';
import { FATES, type Fate } from '../../../../../core/site/fates';
import { tick } from '../../../../../engine/jobs/runner';
import { store } from '../../../../../engine/services/openedStore';
import { startFates } from '../../../../../engine/services/startJobs';
import { fatesSheet } from '../../../../../engine/services/sheet';
import { deleteList, findList, listFates } from '../../../../../engine/store/lists';
import { findSite, siteSettings } from '../../../../../engine/store/sites';
import { listSweeps } from '../../../../../engine/store/sweeps';
import { download, idOf, json, notFound, query, route, SHEET_TYPE } from '../../../_answer';

const schema = object({
  fate: string().oneOf([...FATES]),
  search: string().max(500),
  sort: string().oneOf(['work', 'clicks', 'address']).default('work'),
  format: string().oneOf(['csv', 'xlsx']),
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(1).max(500).default(50),
});

/** Addresses of a list with their fates: a window, or all that fit the filter as CSV or XLSX. */
export const GET = route(async (context) => {
  const db = await store();
  const list = await findList(db, idOf(context), idOf(context, 'list'));
  if (!list) return notFound('There is no such list.', context.url.pathname);
  const q = query(context, schema);
  const filter = { fate: q.fate as Fate | undefined, search: q.search, sort: q.sort as 'work' | 'clicks' | 'address' };
  if (!q.format) return json({ list, ...(await listFates(db, list.id, filter, { offset: q.offset, limit: q.limit })) });
  const { rows } = await listFates(db, list.id, filter, { offset: 0, limit: 1_000_000 });
  return q.format === 'csv'
    ? download(fatesCsv(rows), 'text/csv; charset=utf-8', 'fates.csv')
    : download(await fatesSheet(rows), SHEET_TYPE, 'fates.xlsx');
});

/** Asks for its addresses anew, as a job. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  const list = await findList(db, idOf(context), idOf(context, 'list'));
  if (!site || !list) return notFound('There is no such list.', context.url.pathname);
  const sweep = currentSweep(await listSweeps(db, site.id));
  const job = await startFates(db, site, list, sweep?.id ?? null, await siteSettings(db, site));
  await tick();
  return json(job, 201);
});

export const DELETE = route(async (context) =>
  (await deleteList(await store(), idOf(context), idOf(context, 'list')))
    ? new Response(null, { status: 204 })
    : notFound('There is no such list.', context.url.pathname),
);
