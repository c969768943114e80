import { object, string } from 'yup';
import { PAGE_GROUPS, readPageFilter } from '../../../../../core/site/pageFilter';
import { store } from '../../../../../engine/services/openedStore';
import { summarisePages } from '../../../../../engine/store/pageSummary';
import { findSweep } from '../../../../../engine/store/sweeps';
import { remembered } from '../../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../../_answer';

const schema = object({ group: string().oneOf([...PAGE_GROUPS]) });

/** How the pages of a sweep are spread over status, depth, answer time, folders and templates; with `group` over one more fact. */
export const GET = route(
  remembered(async (context) => {
    const db = await store();
    const sweep = await findSweep(db, idOf(context));
    if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
    const filter = readPageFilter((name) => context.url.searchParams.get(name));
    const { group } = query(context, schema);
    return json(await summarisePages(db, sweep.id, filter, group));
  }),
);
