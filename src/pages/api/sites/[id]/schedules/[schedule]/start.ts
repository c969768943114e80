import { tick } from '../../../../../../engine/jobs/runner';
import { store } from '../../../../../../engine/services/openedStore';
import { findSite } from '../../../../../../engine/store/sites';
import { listSchedules, noteStart } from '../../../../../../engine/store/watch/schedules';
import { startScheduled } from '../../../../../../engine/watch/scheduler';
import { idOf, json, notFound, route } from '../../../../_answer';

/** Does now what a schedule does; its next start stays as it is. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  const id = idOf(context, 'schedule');
  const schedule = site && (await listSchedules(db, site.id)).find((s) => s.id === id);
  if (!schedule) return notFound('There is no such schedule.', context.url.pathname);
  const job = await startScheduled(db, site, schedule);
  await noteStart(db, schedule.id, { job: job.id });
  void tick();
  return json(job, 201);
});
