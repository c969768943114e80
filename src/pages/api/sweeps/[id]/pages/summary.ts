import { object, string } from 'yup';
import { PAGE_GROUPS, readPageFilter } from '../../../../../core/site/pageFilter';
import { summarisePages } from '../../../../../engine/store/pageSummary';
import { json, query } from '../../../_answer';
import { sweepRoute } from '../../../_sweep';

const schema = object({ group: string().oneOf([...PAGE_GROUPS]) });

/** How the pages of a sweep are spread over status, depth, answer time, folders and templates; with `group` over one more fact. */
export const GET = sweepRoute(async (context, db, sweep) => {
  const filter = readPageFilter((name) => context.url.searchParams.get(name));
  const { group } = query(context, schema);
  return json(await summarisePages(db, sweep.id, filter, group));
});
