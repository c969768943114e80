import { object, string } from 'yup';
import { benchPages } from '../../../../engine/services/benchPages';
import { store } from '../../../../engine/services/openedStore';
import { countCauses } from '../../../../engine/store/findings';
import { findSweep } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../_answer';

/** Captures of a sweep for one device with graphs and fixes: what the bench forecasts with. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const wanted = query(context, object({ device: string().oneOf(['phone', 'desktop']).default('phone') })).device as
    'phone' | 'desktop';
  const { device, pages } = await benchPages(db, sweep.id, wanted);
  return json({ sweep, device, counts: await countCauses(db, sweep.id, device), pages });
});
