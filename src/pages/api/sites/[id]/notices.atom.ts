import { atomFeed } from '../../../../core/watch/atom';
import { store } from '../../../../engine/services/openedStore';
import { findSite } from '../../../../engine/store/sites';
import { listNotices } from '../../../../engine/store/watch/notices';
import { idOf, notFound, originOf, route } from '../../_answer';

/** Notices of a site as an Atom feed (RFC 4287). */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const origin = await originOf(context);
  return new Response(atomFeed(site, await listNotices(db, site.id), origin + context.url.pathname), {
    headers: { 'content-type': 'application/atom+xml; charset=utf-8', 'cache-control': 'private, no-cache' },
  });
});
