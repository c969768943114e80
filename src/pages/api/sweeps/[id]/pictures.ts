import { object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { chainsOfTemplates, heroesOf, picturesInThread } from '../../../../engine/services/loadPictures';
import { store } from '../../../../engine/services/openedStore';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

const schema = object({
  visitor: string().default(DEFAULT_VISITOR.id),
  part: string().oneOf(['heroes', 'chains']),
});

/**
 * What Hero and Blocking show of a sweep's recorded pages for one visitor; made on first use, then kept. `part=heroes`
 * leaves out what the first paint waits for, `part=chains` is the page of each template that is painted last.
 */
export const GET = route(
  remembered(async (context) => {
    const { visitor, part } = query(context, schema);
    const db = await store();
    const found = await picturesInThread(db, idOf(context), parseVisitor(visitor));
    if (!found) return notFound('There is no such sweep.', context.url.pathname);
    if (part === 'chains') return json(await chainsOfTemplates(db, idOf(context), found));
    return json(part === 'heroes' ? heroesOf(found) : found);
  }),
);
