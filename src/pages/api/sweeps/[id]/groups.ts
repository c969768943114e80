import { object, string } from 'yup';
import type { Device } from '../../../../core/capture/capture';
import { sweepGroups } from '../../../../engine/services/sweepForecasts';
import { json, query } from '../../_answer';
import { sweepRoute } from '../../_sweep';

const schema = object({ device: string().oneOf(['phone', 'desktop']).default('phone') });

/** The groups of fixes that the recorded pages of a sweep offer for one device, or for the one that it has. */
export const GET = sweepRoute(async (context, db, sweep) =>
  json(await sweepGroups(db, sweep.id, query(context, schema).device as Device)),
);
