import { object, string } from 'yup';
import { hostOf } from '../../../../../core/capture/url';
import { tick } from '../../../../../engine/jobs/runner';
import { store } from '../../../../../engine/services/openedStore';
import { startMove } from '../../../../../engine/services/startJobs';
import { findSite } from '../../../../../engine/store/sites';
import { idOf, json, notFound, query, route } from '../../../_answer';
import { fileNameOf, takeUpload } from '../../../_upload';

const schema = object({
  from: string().max(2000),
  to: string().max(300).default('https'),
  dry: string().oneOf(['yes', 'no']).default('yes'),
});

/**
 * Looks for http addresses in a file: the body is a zip or a dump, `from` names hosts with commas between them. With
 * `dry=no` a changed copy, a diff and an undo map are made. It becomes a job.
 */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const q = query(context, schema);
  const fileName = fileNameOf(context, 'site.zip');
  const from = (q.from ?? hostOf(site.home)).split(',').flatMap((h) => h.trim() || []);
  const file = await takeUpload(context, fileName, {
    bytes: 2 * 1024 ** 3,
    words: '2 GB',
    next: 'Use the command line for it: keen-lens move.',
  });
  const job = await startMove(db, site, { siteId: site.id, file, fileName, from, to: q.to, dryRun: q.dry === 'yes' });
  await tick();
  return json(job, 201);
});
