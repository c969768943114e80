import { object, string } from 'yup';
import type { Device } from '../../../../core/capture/capture';
import { store } from '../../../../engine/services/openedStore';
import { sweepOverview } from '../../../../engine/services/sweepOverview';
import { findSweep } from '../../../../engine/store/sweeps';
import { remembered } from '../../../../server/remembered';
import { idOf, json, notFound, query, route } from '../../_answer';

/** The recorded pages of a sweep for one device and the groups of fixes that they offer: what lists show. */
export const GET = route(
  remembered(async (context) => {
    const db = await store();
    const sweep = await findSweep(db, idOf(context));
    if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
    const { device } = query(context, object({ device: string().oneOf(['phone', 'desktop']).default('phone') }));
    return json({ sweep, ...(await sweepOverview(db, sweep.id, device as Device)) });
  }),
);
