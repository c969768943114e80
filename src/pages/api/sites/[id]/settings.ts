import { shownSettings, withSecretsOf } from '../../../../core/site/settings';
import { store } from '../../../../engine/services/openedStore';
import { findSite, saveSiteSettings, siteSettings } from '../../../../engine/store/sites';
import { body, idOf, json, notFound, route } from '../../_answer';
import { mergeSettings, settingsSchema } from '../../_sweepSettings';

/** How a site is swept; secrets are kept back. */
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
  const stored = await siteSettings(db, site);
  const settings = withSecretsOf(mergeSettings(stored, await body(context, settingsSchema)), stored);
  await saveSiteSettings(db, site.id, settings);
  return json(shownSettings(settings));
});
