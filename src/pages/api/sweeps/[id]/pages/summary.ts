import { readPageFilter } from '../../../../../core/site/pageFilter';
import { store } from '../../../../../engine/services/openedStore';
import { summarisePages } from '../../../../../engine/store/pageSummary';
import { findSweep } from '../../../../../engine/store/sweeps';
import { idOf, json, notFound, route } from '../../../_answer';

/** How the pages of a sweep are spread over status, depth, answer time, folders and templates. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const filter = readPageFilter((name) => context.url.searchParams.get(name));
  return json(await summarisePages(db, sweep.id, filter));
});
