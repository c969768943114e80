import { store } from '../../../../engine/services/openedStore';
import { knownAddresses } from '../../../../engine/store/knownAddresses';
import { findSite } from '../../../../engine/store/sites';
import { idOf, json, notFound, route } from '../../_answer';

/** Addresses of a site known so far: what patterns can be tried on. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  return json(await knownAddresses(db, site.id));
});
