import { number, object, string } from 'yup';
import { sweepNews } from '../../../../engine/services/sweepNews';
import { json, query } from '../../_answer';
import { sweepRoute } from '../../_sweep';

const schema = object({
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  with: number().integer().min(1),
});

/** What is new, gone or came back since an older sweep: the one before, or `with`. */
export const GET = sweepRoute(async (context, db, sweep) => {
  const q = query(context, schema);
  const { against, news } = await sweepNews(db, sweep, q.device as 'phone' | 'desktop', q.with);
  return json({ against, news });
});
