import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { randomUUID } from 'node:crypto';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { InputError } from '../../../core/capture/errors';
import { MAX_FILE_BYTES } from '../../../engine/services/importHar';
import { importInWorker } from '../../../engine/services/importInWorker';
import { json, route } from '../_answer';

/** Imports a capture file: the body is the file (HAR, also gzipped), `X-File-Name` its name. */
export const POST = route(async (context) => {
  const fileName = decodeName(context.request.headers.get('x-file-name')) || 'upload.har';
  const source = context.request.body;
  if (!source) throw new InputError('The request has no file in it.', fileName, 'Send the file as the request body.');
  const file = path.join(os.tmpdir(), `keen-lens-${randomUUID()}`);
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
      fs.createWriteStream(file),
    ).catch((error: unknown) => {
      if ((error as { code?: string }).code === 'ENOSPC')
        throw new InputError('The disk is full: nothing was stored.', os.tmpdir(), 'Make room and import it again.');
      throw error;
    });
    const result = await importInWorker(file, fileName);
    return json(result, result.alreadyThere ? 200 : 201);
  } finally {
    await fs.promises.rm(file, { force: true });
  }
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
