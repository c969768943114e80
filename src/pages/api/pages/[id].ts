import { store } from '../../../engine/services/openedStore';
import { getPage } from '../../../engine/store/pageFacts';
import { idOf, json, notFound, route } from '../_answer';

/** Everything that a sweep knows of one page, with links in and out. */
export const GET = route(async (context) => {
  const page = await getPage(await store(), idOf(context));
  return page ? json(page) : notFound('There is no such page.', context.url.pathname);
});
