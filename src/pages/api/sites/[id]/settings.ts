import { shownSettings } from '../../../../core/site/settings';
import { store } from '../../../../engine/services/openedStore';
import { findSite, siteSettings } from '../../../../engine/store/sites';
import { idOf, json, notFound, route } from '../../_answer';
import { takeSettings } from '../../_sweepSettings';

/** How a site is swept; without its secrets. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json(shownSettings(await siteSettings(db, site)));
});

/** Changes how a site is swept. */
export const PUT = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json(shownSettings(await takeSettings(db, site, context)));
});
