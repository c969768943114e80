import { store } from '../../../../../../engine/services/openedStore';
import { changeSchedule, removeSchedule } from '../../../../../../engine/store/watch/schedules';
import { body, idOf, json, notFound, route } from '../../../../_answer';
import { readSchedule, schema } from '../_schedule';

const ids = (context: Parameters<typeof idOf>[0]) => [idOf(context), idOf(context, 'schedule')] as const;

/** Changes a schedule. */
export const PUT = route(async (context) => {
  const [siteId, id] = ids(context);
  const schedule = readSchedule(await body(context, schema));
  const changed = await changeSchedule(await store(), siteId, id, schedule, new Date());
  return changed ? json({ id }) : notFound('There is no such schedule.', context.url.pathname);
});

/** Takes a schedule away. */
export const DELETE = route(async (context) => {
  const gone = await removeSchedule(await store(), ...ids(context));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such schedule.', context.url.pathname);
});
