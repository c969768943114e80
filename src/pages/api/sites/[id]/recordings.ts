import { array, number, object, string } from 'yup';
import { InputError } from '../../../../core/capture/errors';
import { siteTest } from '../../../../core/site/scope';
import { tick } from '../../../../engine/jobs/runner';
import { store } from '../../../../engine/services/openedStore';
import { startRecordings } from '../../../../engine/services/startJobs';
import { findSite, siteSettings } from '../../../../engine/store/sites';
import { findSweep } from '../../../../engine/store/sweeps';
import { body, idOf, json, notFound, route } from '../../_answer';

const schema = object({
  sweepId: number().integer().required('Say which sweep the captures belong to.'),
  urls: array(string().url('Give whole addresses.').required()).min(1).max(500).required(),
  devices: array(string().oneOf(['phone', 'desktop']).required()).min(1),
});

/** Records single pages with a real browser; the captures join a sweep. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const input = await body(context, schema);
  const sweep = await findSweep(db, input.sweepId);
  if (sweep?.siteId !== site.id) return notFound('There is no such sweep of this site.', `sweep ${input.sweepId}`);
  const settings = await siteSettings(db, site);
  const own = siteTest(settings.home, true);
  const foreign = input.urls.find((u) => !own(u));
  if (foreign) throw new InputError('This address belongs to another site.', foreign, 'Record it for its own site.');
  const devices = (input.devices as ('phone' | 'desktop')[] | undefined) ?? settings.captures.devices;
  const job = await startRecordings(db, site, sweep.id, input.urls, {
    ...settings,
    captures: { ...settings.captures, devices },
  });
  await tick();
  return json(job, 201);
});
