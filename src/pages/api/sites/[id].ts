import { object, string } from 'yup';
import { store } from '../../../engine/services/openedStore';
import { changeSite, deleteSite, findSite } from '../../../engine/store/sites';
import { listSweeps } from '../../../engine/store/sweeps';
import { countUnread } from '../../../engine/store/watch/notices';
import { body, idOf, json, notFound, route } from '../_answer';

/** One site with its sweeps, and how many notices nobody has read. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json({ ...site, sweeps: await listSweeps(db, site.id), unread: await countUnread(db, site.id) });
});

/** Renames a site, or puts it into a group; an empty group takes it out. */
export const PATCH = route(async (context) => {
  const { name, group } = await body(
    context,
    object({ name: string().trim().min(1, 'Give a name.').max(120), group: string().trim().max(80) }),
  );
  const db = await store();
  if (!(await findSite(db, idOf(context)))) return notFound('There is no such site.', context.url.pathname);
  await changeSite(db, idOf(context), { name, group });
  return json(await findSite(db, idOf(context)));
});

/** Deletes a site with its sweeps and captures. */
export const DELETE = route(async (context) => {
  const gone = await deleteSite(await store(), idOf(context));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such site.', context.url.pathname);
});
