import { number, object, string } from 'yup';
import { benchPages } from '../../../../engine/services/benchPages';
import { store } from '../../../../engine/services/openedStore';
import { countCauses } from '../../../../engine/store/findings';
import { findSweep } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../_answer';

const schema = object({
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  capture: number().integer().positive(),
});

/** Captures of a sweep for one device with graphs and fixes, or one of them: what the bench forecasts with. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const wanted = query(context, schema);
  const { device, pages } = await benchPages(db, sweep.id, wanted.device as 'phone' | 'desktop', wanted.capture);
  return json({ sweep, device, counts: await countCauses(db, sweep.id, device), pages });
});
