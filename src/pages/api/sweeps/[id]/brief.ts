import { object, string } from 'yup';
import { briefCauses } from '../../../../engine/services/briefCauses';
import { store } from '../../../../engine/services/openedStore';
import { deviceIn } from '../../../../engine/store/captures';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

const schema = object({ device: string().oneOf(['phone', 'desktop']).default('phone') });

/** Causes of a sweep as the Brief sums them up. */
export const GET = route(
  remembered(async (context) => {
    const db = await store();
    const id = idOf(context);
    const device = await deviceIn(db, id, query(context, schema).device as 'phone' | 'desktop');
    const found = await briefCauses(db, id, device);
    return found ? json(found) : notFound('There is no such sweep.', context.url.pathname);
  }),
);
