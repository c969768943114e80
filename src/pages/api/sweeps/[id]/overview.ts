import { boolean, object, string } from 'yup';
import type { Device } from '../../../../core/capture/capture';
import { sweepOverview } from '../../../../engine/services/sweepOverview';
import { json, query } from '../../_answer';
import { sweepRoute } from '../../_sweep';

const schema = object({
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  groups: boolean().default(true),
});

/**
 * The recorded pages of a sweep for one device and, unless left out, the groups of fixes that they offer: what lists show.
 */
export const GET = sweepRoute(async (context, db, sweep) => {
  const asked = query(context, schema);
  const { groups, ...rest } = await sweepOverview(db, sweep.id, asked.device as Device);
  return json({ sweep, ...rest, ...(asked.groups && { groups }) });
});
