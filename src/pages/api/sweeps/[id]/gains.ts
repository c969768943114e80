import { object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { store } from '../../../../engine/services/openedStore';
import { gainsInThread } from '../../../../engine/services/sweepForecasts';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

/** What each group of fixes wins alone on each recorded page, for one visitor; made with the forecast, then kept. */
export const GET = route(
  remembered(async (context) => {
    const { visitor } = query(context, object({ visitor: string().default(DEFAULT_VISITOR.id) }));
    const found = await gainsInThread(await store(), idOf(context), parseVisitor(visitor));
    return found ? json(found) : notFound('There is no such sweep.', context.url.pathname);
  }),
);
