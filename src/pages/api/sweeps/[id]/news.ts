import { number, object, string } from 'yup';
import { store } from '../../../../engine/services/openedStore';
import { sweepNews } from '../../../../engine/services/sweepNews';
import { findSweep } from '../../../../engine/store/sweeps';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

const schema = object({
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  with: number().integer().min(1),
});

/** What is new, gone or came back since an older sweep: the one before, or `with`. */
export const GET = route(
  remembered(async (context) => {
    const db = await store();
    const sweep = await findSweep(db, idOf(context));
    if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
    const q = query(context, schema);
    const { against, news } = await sweepNews(db, sweep, q.device as 'phone' | 'desktop', q.with);
    return json({ against, news });
  }),
);
