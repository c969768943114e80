import { number, object } from 'yup';
import { InputError } from '../../../../../core/capture/errors';
import { comparePeriods, pageName } from '../../../../../core/site/searchPeriods';
import { store } from '../../../../../engine/services/openedStore';
import { fatesOfPages, findList, listRows } from '../../../../../engine/store/lists';
import { idOf, json, notFound, query, route } from '../../../_answer';

const schema = object({
  before: number().integer().min(1).required('Say which list comes first.'),
  after: number().integer().min(1).required('Say which list comes second.'),
});

/** Pages that are given at most. */
const MOST_PAGES = 200;

/** Two periods of search performance compared: in all, by folder, by page with its fate, and day by day. */
export const GET = route(async (context) => {
  const db = await store();
  const site = idOf(context);
  const q = query(context, schema);
  const [before, after] = await Promise.all([findList(db, site, q.before), findList(db, site, q.after)]);
  if (!before || !after) return notFound('There is no such list.', context.url.pathname);
  if ((before.kind === 'days') !== (after.kind === 'days'))
    throw new InputError('A list of days and a list of pages cannot be compared.', 'lists', 'Choose two of one kind.');
  const compared = comparePeriods(await listRows(db, before.id), await listRows(db, after.id));
  const pages = compared.pages.slice(0, MOST_PAGES);
  const fates = await fatesOfPages(db, [after.id, before.id]);
  return json({
    before,
    after,
    ...compared,
    pages: pages.map((p) => ({ ...p, fate: fates.get(pageName(`https://${p.name}`)) ?? null })),
    pagesLeftOut: compared.pages.length - pages.length,
  });
});
