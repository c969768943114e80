import { number, object, string } from 'yup';
import { deviceOf, DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { bestGains } from '../../../../core/plan/bestGains';
import { store } from '../../../../engine/services/openedStore';
import { gainsInThread, sweepGroups } from '../../../../engine/services/sweepForecasts';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

const ASKED = object({
  visitor: string().default(DEFAULT_VISITOR.id),
  best: number().integer().min(1).max(20),
});

/**
 * What each group of fixes wins alone on each recorded page, for one visitor; made with the forecast, then kept. With
 * `best` so many of the best groups of each page.
 */
export const GET = route(
  remembered(async (context) => {
    const { visitor: named, best } = query(context, ASKED);
    const visitor = parseVisitor(named);
    const db = await store();
    const sweepId = idOf(context);
    const found = await gainsInThread(db, sweepId, visitor);
    if (!found) return notFound('There is no such sweep.', context.url.pathname);
    if (best === undefined) return json(found);
    return json(bestGains(await sweepGroups(db, sweepId, deviceOf(visitor)), found, best));
  }),
);
