import { currentSweep } from '../../../../../core/site/currentSweep';
import { store } from '../../../../../engine/services/openedStore';
import { listSweeps } from '../../../../../engine/store/sweeps';
import { changeWatchLimit, removeWatchLimit } from '../../../../../engine/store/watch/limits';
import { judgeNow } from '../../../../../engine/watch/judgeSweep';
import { body, idOf, json, notFound, route } from '../../../_answer';
import { readLimit, schema } from './_limit';

/** Changes a limit, and judges it by the sweep that there is. */
export const PUT = route(async (context) => {
  const db = await store();
  const [siteId, id] = [idOf(context), idOf(context, 'limit')];
  if (!(await changeWatchLimit(db, siteId, id, readLimit(await body(context, schema)))))
    return notFound('There is no such limit.', context.url.pathname);
  const sweep = currentSweep(await listSweeps(db, siteId));
  if (sweep) await judgeNow(db, siteId, sweep.id);
  return json({ id });
});

/** Takes a limit away, with what it came to. */
export const DELETE = route(async (context) => {
  const gone = await removeWatchLimit(await store(), idOf(context), idOf(context, 'limit'));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such limit.', context.url.pathname);
});
