import { CHECKS } from '../../../../core/checks';
import { InputError } from '../../../../core/capture/errors';
import type { Limits } from '../../../../core/checks/finding';
import { tick } from '../../../../engine/jobs/runner';
import { store } from '../../../../engine/services/openedStore';
import { startExamination } from '../../../../engine/services/startJobs';
import { findSite, saveSiteLimits, siteLimits } from '../../../../engine/store/sites';
import { idOf, json, notFound, route } from '../../_answer';

/** Limits that a site has set for itself, by `check.threshold`; all others are the defaults. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await siteLimits(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/** Sets them all, and examines the site's captures by them. */
export const PUT = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  await saveSiteLimits(db, site.id, read(await context.request.json().catch(() => undefined)));
  const job = await startExamination(db, site);
  void tick();
  return json({ limits: await siteLimits(db, site.id), job: job.id });
});

/** @throws InputError for a limit that no check has, or that is no sensible number. */
function read(value: unknown): Limits {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new InputError('Limits are a JSON object.', 'request body', 'Send {"hero-late.place": 12}, for instance.');
  const out: Record<string, number> = {};
  for (const [key, limit] of Object.entries(value)) {
    const [check, id] = key.split('.');
    const threshold = CHECKS.find((c) => c.id === check)?.thresholds?.find((t) => t.id === id);
    if (!threshold) throw new InputError(`There is no limit "${key}".`, key, 'docs/checks.md names them all.');
    const most = threshold.unit === 'share' ? 10 : 1e12;
    if (typeof limit !== 'number' || !Number.isFinite(limit) || limit < 0 || limit > most)
      throw new InputError(`The limit ${key} is not a number from 0 to ${most}.`, key, 'Correct it and save again.');
    if (limit !== threshold.value) out[key] = limit;
  }
  return out;
}
