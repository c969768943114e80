import { object, number, string } from 'yup';
import { InputError } from '../../../../../core/capture/errors';
import { store } from '../../../../../engine/services/openedStore';
import { inSweepThread } from '../../../../../engine/services/sweepThread';
import { findSite } from '../../../../../engine/store/sites';
import { findSweep } from '../../../../../engine/store/sweeps';
import { idOf, json, notFound, query, route } from '../../../_answer';

const schema = object({
  sweep: number().integer().min(1).required('Say which sweep.'),
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  /** Groups of fixes, parted by commas: the p75 with them is forecast. */
  groups: string().max(20_000),
});

/** Visitors fitted to the field data; with `groups` the p75 of hero paint now and with these fixes. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const { sweep, device, groups } = query(context, schema);
  if ((await findSweep(db, sweep))?.siteId !== site.id)
    return notFound('There is no such sweep of this site.', `sweep ${sweep}`);
  const made = await inSweepThread(db, sweep, {
    make: 'field',
    site: { id: site.id, name: site.name },
    device,
    ...(groups !== undefined && { groups: groups.split(',').filter(Boolean) }),
  });
  if (!made)
    throw new InputError(
      'No field data belongs to a recorded page of this sweep.',
      'field data',
      'Add p75s of its pages or of its origin, for this device.',
    );
  return json(made);
});
