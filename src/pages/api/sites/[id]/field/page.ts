import { object, string } from 'yup';
import { store } from '../../../../../engine/services/openedStore';
import { latestField } from '../../../../../engine/store/fieldFiles';
import { findSite } from '../../../../../engine/store/sites';
import { idOf, json, notFound, query, route } from '../../../_answer';

const schema = object({
  page: string().url('Give a whole address.').max(8000).required('Say which page.'),
  device: string().oneOf(['phone', 'desktop']).default('phone'),
});

/** What real visits to one page came to; null where nothing is known of it. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const { page, device } = query(context, schema);
  return json((await latestField(db, site.id, device)).rowFor(page) ?? null);
});
