import { object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { forecastInThread } from '../../../../engine/services/sweepForecasts';
import { store } from '../../../../engine/services/openedStore';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

/** What a sweep's recorded pages say for one visitor while nothing is on the bench; made on first use, then kept. */
export const GET = route(
  remembered(async (context) => {
    const { visitor } = query(context, object({ visitor: string().default(DEFAULT_VISITOR.id) }));
    const found = await forecastInThread(await store(), idOf(context), parseVisitor(visitor));
    return found ? json(found) : notFound('There is no such sweep.', context.url.pathname);
  }),
);
