import { store } from '../../../../../engine/services/openedStore';
import { findSite } from '../../../../../engine/store/sites';
import { addSchedule, listSchedules } from '../../../../../engine/store/watch/schedules';
import { body, idOf, json, notFound, route } from '../../../_answer';
import { readSchedule, schema } from './_schedule';

/** Schedules of a site. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listSchedules(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Adds one. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const id = await addSchedule(db, site.id, readSchedule(await body(context, schema)), new Date());
  return json({ id }, 201);
});
