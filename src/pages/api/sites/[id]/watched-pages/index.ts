import { array, object, string } from 'yup';
import { InputError } from '../../../../../core/capture/errors';
import { siteTest } from '../../../../../core/site/scope';
import { store } from '../../../../../engine/services/openedStore';
import { findSite, siteSettings } from '../../../../../engine/store/sites';
import { listWatched, MOST_WATCHED, watchPages } from '../../../../../engine/store/watch/watchedPages';
import { body, idOf, json, notFound, route } from '../../../_answer';

const schema = object({
  urls: array(string().trim().url('Give whole addresses.').max(4000).required()).min(1).required('Name a page.'),
});

/** Pages that the change watch visits. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listWatched(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Adds pages. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const { urls } = await body(context, schema);
  const own = siteTest((await siteSettings(db, site)).home, true);
  const foreign = urls.find((u) => !own(u));
  if (foreign) throw new InputError('This address belongs to another site.', foreign, 'Watch it with its own site.');
  const known = await listWatched(db, site.id);
  if (new Set([...known.map((p) => p.url), ...urls]).size > MOST_WATCHED)
    throw new InputError(`At most ${MOST_WATCHED} pages of a site are watched.`, site.name, 'Choose fewer.');
  await watchPages(db, site.id, urls);
  return json(await listWatched(db, site.id), 201);
});
