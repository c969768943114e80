import { object, string } from 'yup';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../core/load/visitors';
import { pageStory } from '../../../../core/plan/story';
import { store } from '../../../../engine/services/openedStore';
import { auditOf } from '../../../../engine/store/captures';
import { idOf, json, notFound, query, route } from '../../_answer';

/** How the load of a recorded page unfolds for one visitor, without any fix. */
export const GET = route(async (context) => {
  const { visitor } = query(context, object({ visitor: string().default(DEFAULT_VISITOR.id) }));
  const audit = await auditOf(await store(), idOf(context));
  return audit
    ? json(pageStory(idOf(context), audit.graph, parseVisitor(visitor)))
    : notFound('There is no such capture.', context.url.pathname);
});
