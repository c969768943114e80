import fs from 'node:fs';
import path from 'node:path';
import { randomUUID } from 'node:crypto';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { InputError } from '../../../core/capture/errors';
import { MAX_FILE_BYTES } from '../../../engine/services/importHar';
import { importUploaded } from '../../../engine/jobs/importUploaded';
import { storeFault } from '../../../engine/store/faults';
import { uploadFolder } from '../../../engine/store/uploads';
import { number, object } from 'yup';
import { store } from '../../../engine/services/openedStore';
import { findSite } from '../../../engine/store/sites';
import { json, notFound, query, route } from '../_answer';

/**
 * Imports a capture file: the body is the file (HAR, also gzipped), `X-File-Name` its name. It becomes a job;
 * the answer comes when that has ended. `site` names the site that its captures become part of.
 */
export const POST = route(async (context) => {
  const fileName = decodeName(context.request.headers.get('x-file-name')) || 'upload.har';
  const { site: siteId } = query(context, object({ site: number().integer().min(1) }));
  if (siteId !== undefined && !(await findSite(await store(), siteId)))
    return notFound('There is no such site.', context.url.pathname);
  const source = context.request.body;
  if (!source) throw new InputError('The request has no file in it.', fileName, 'Send the file as the request body.');
  const file = path.join(await uploadFolder(), `${randomUUID()}.har`);
  try {
    let size = 0;
    await pipeline(
      Readable.fromWeb(source as never),
      async function* (chunks: AsyncIterable<Uint8Array>) {
        for await (const chunk of chunks) {
          size += chunk.length;
          if (size > MAX_FILE_BYTES)
            throw new InputError('The file is larger than 512 MB.', fileName, 'Export fewer pages at a time.');
          yield chunk;
        }
      },
      fs.createWriteStream(file, { mode: 0o600 }),
    );
  } catch (error) {
    await fs.promises.rm(file, { force: true });
    throw storeFault(error, fileName) ?? error;
  }
  const result = await importUploaded({ file, fileName, siteId });
  return json(result, result.alreadyThere ? 200 : 201);
});

function decodeName(name: string | null): string {
  try {
    return decodeURIComponent(name ?? '')
      .replace(/[\u0000-\u001f/\\]/g, '_')
      .slice(0, 200);
  } catch {
    return '';
  }
}
