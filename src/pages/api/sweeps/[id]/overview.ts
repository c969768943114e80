import { object, string } from 'yup';
import type { Device } from '../../../../core/capture/capture';
import { sweepOverview } from '../../../../engine/services/sweepOverview';
import { json, query } from '../../_answer';
import { sweepRoute } from '../../_sweep';

/** The recorded pages of a sweep for one device and the groups of fixes that they offer: what lists show. */
export const GET = sweepRoute(async (context, db, sweep) => {
  const { device } = query(context, object({ device: string().oneOf(['phone', 'desktop']).default('phone') }));
  return json({ sweep, ...(await sweepOverview(db, sweep.id, device as Device)) });
});
