import fs from 'node:fs';
import path from 'node:path';
import { randomUUID } from 'node:crypto';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { APIContext } from 'astro';
import { InputError } from '../../core/capture/errors';
import type { FileLimit } from '../../engine/services/readCaptureFile';
import { storeFault } from '../../engine/store/faults';
import { uploadFolder } from '../../engine/store/uploads';

/** The name of the file that a request carries, as `X-File-Name` gives it. */
export function fileNameOf(context: APIContext, otherwise: string): string {
  try {
    const name = decodeURIComponent(context.request.headers.get('x-file-name') ?? '');
    return name.replace(/[\u0000-\u001f/\\]/g, '_').slice(0, 200) || otherwise;
  } catch {
    return otherwise;
  }
}

/**
 * Puts the body of a request into a file of its own.
 * @param most how large it may be, or what tells that from its first bytes
 * @throws InputError for a body that is too large, a fault of the disk as such
 */
export async function takeUpload(
  context: APIContext,
  fileName: string,
  most: FileLimit | ((first: Uint8Array) => FileLimit),
): Promise<string> {
  const source = context.request.body;
  if (!source) throw new InputError('The request has no file in it.', fileName, 'Send the file as the request body.');
  const file = path.join(await uploadFolder(), `${randomUUID()}.upload`);
  try {
    let size = 0;
    let limit = typeof most === 'function' ? undefined : most;
    await pipeline(
      Readable.fromWeb(source as never),
      async function* (chunks: AsyncIterable<Uint8Array>) {
        for await (const chunk of chunks) {
          size += chunk.length;
          limit ??= (most as (first: Uint8Array) => FileLimit)(chunk);
          if (size > limit.bytes) throw new InputError(`The file is larger than ${limit.words}.`, fileName, limit.next);
          yield chunk;
        }
      },
      fs.createWriteStream(file, { mode: 0o600 }),
    );
  } catch (error) {
    await fs.promises.rm(file, { force: true });
    throw storeFault(error, fileName) ?? error;
  }
  return file;
}
