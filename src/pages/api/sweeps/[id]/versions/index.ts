import { number, object, string } from 'yup';
import { versionName } from '../../../../../core/pictures/versionMarkup';
import { pictureVersions, versionsZip } from '../../../../../engine/services/pictureVersions';
import { store } from '../../../../../engine/services/openedStore';
import { findSweep } from '../../../../../engine/store/sweeps';
import { download, idOf, json, notFound, query, route } from '../../../_answer';

const schema = object({
  url: string().max(8000).required('Say which picture.'),
  format: string().oneOf(['json', 'avif', 'webp', 'zip']).default('json'),
  width: number().integer().min(1),
});

/**
 * A picture of a sweep re-encoded at the sizes at which it is drawn: what came out, one version by format and width, or
 * all in a ZIP with a list and the markup.
 */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const { url, format, width } = query(context, schema);
  const found = await pictureVersions(db, sweep.id, url);
  if (!found) return notFound('No picture of this sweep that can be read has this address.', url);
  const { made, ...shown } = found;
  if (format === 'json') return json(shown);
  if (format === 'zip') return download(versionsZip(found), 'application/zip', 'pictures.zip');
  const version = made.versions.find((v) => v.format === format && v.width === width);
  if (!version) return notFound('There is no such version.', `${format}, ${width ?? 'no width'}`);
  return new Response(new Uint8Array(version.content), {
    headers: {
      'content-type': `image/${format}`,
      'content-disposition': `inline; filename="${versionName(url, version)}"`,
      'x-content-type-options': 'nosniff',
      'content-security-policy': "sandbox; default-src 'none'",
      'cache-control': 'private, max-age=3600',
    },
  });
});
