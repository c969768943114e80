import { number, object } from 'yup';
import { store } from '../../../../engine/services/openedStore';
import { findSite } from '../../../../engine/store/sites';
import { listNotices, readNotices } from '../../../../engine/store/watch/notices';
import { body, idOf, json, notFound, route } from '../../_answer';

const schema = object({ readUpTo: number().integer().min(0).required('Say up to which notice.') });

/** Notices of a site, the latest first. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listNotices(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Marks notices as read. */
export const PUT = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  await readNotices(db, site.id, (await body(context, schema)).readUpTo);
  return json(await listNotices(db, site.id));
});
