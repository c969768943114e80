import { InputError } from '../../../../../core/capture/errors';
import { currentSweep } from '../../../../../core/site/currentSweep';
import { store } from '../../../../../engine/services/openedStore';
import { findSite } from '../../../../../engine/store/sites';
import { listSweeps } from '../../../../../engine/store/sweeps';
import { addWatchLimit, listWatchLimits, MOST_LIMITS } from '../../../../../engine/store/watch/limits';
import { judgeNow } from '../../../../../engine/watch/judgeSweep';
import { body, idOf, json, notFound, route } from '../../../_answer';
import { readLimit, schema } from './_limit';

/** Limits of a site. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listWatchLimits(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Adds one, judged by the sweep that there is. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  if ((await listWatchLimits(db, site.id)).length >= MOST_LIMITS)
    throw new InputError(`A site has at most ${MOST_LIMITS} limits.`, site.name, 'Take one away first.');
  const id = await addWatchLimit(db, site.id, readLimit(await body(context, schema)));
  const sweep = currentSweep(await listSweeps(db, site.id));
  if (sweep) await judgeNow(db, site.id, sweep.id);
  return json({ id }, 201);
});
