import { fileLimit } from '../../../engine/services/readCaptureFile';
import { importUploaded } from '../../../engine/jobs/importUploaded';
import { number, object } from 'yup';
import { store } from '../../../engine/services/openedStore';
import { findSite } from '../../../engine/store/sites';
import { json, notFound, query, route } from '../_answer';
import { fileNameOf, takeUpload } from '../_upload';

/**
 * Imports a capture file: the body is the file (HAR, also gzipped), `X-File-Name` its name. It becomes a job;
 * the answer comes when that has ended. `site` names the site that its captures become part of.
 */
export const POST = route(async (context) => {
  const fileName = fileNameOf(context, 'upload.har');
  const { site: siteId } = query(context, object({ site: number().integer().min(1) }));
  if (siteId !== undefined && !(await findSite(await store(), siteId)))
    return notFound('There is no such site.', context.url.pathname);
  const file = await takeUpload(context, fileName, fileLimit);
  const result = await importUploaded({ file, fileName, siteId });
  return json(result, result.alreadyThere ? 200 : 201);
});
