import { object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { picturesInThread } from '../../../../engine/services/loadPictures';
import { store } from '../../../../engine/services/openedStore';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

/** What Hero and Blocking show of a sweep's recorded pages for one visitor; made on first use, then kept. */
export const GET = route(
  remembered(async (context) => {
    const { visitor } = query(context, object({ visitor: string().default(DEFAULT_VISITOR.id) }));
    const found = await picturesInThread(await store(), idOf(context), parseVisitor(visitor));
    return found ? json(found) : notFound('There is no such sweep.', context.url.pathname);
  }),
);
