import zlib from 'node:zlib';

/** Thrown for a body that unpacks to more than it may. */
export class BombError extends Error {}

/**
 * Undoes Content-Encoding (RFC 9110, section 8.4). A body that was cut short gives what can be had of it.
 * @throws BombError when more than `maxBytes` come out
 */
export function undoCoding(bytes: Buffer, encoding: string, maxBytes: number, whole: boolean): Buffer {
  let out = bytes;
  for (const coding of encoding
    .split(',')
    .map((c) => c.trim().toLowerCase())
    .filter(Boolean)
    .reverse()) {
    const options = { maxOutputLength: maxBytes, ...(whole ? {} : { finishFlush: zlib.constants.Z_SYNC_FLUSH }) };
    try {
      if (coding === 'gzip' || coding === 'x-gzip') out = zlib.gunzipSync(out, options);
      else if (coding === 'deflate') out = inflate(out, options);
      else if (coding === 'br')
        out = zlib.brotliDecompressSync(out, {
          maxOutputLength: maxBytes,
          ...(whole ? {} : { finishFlush: zlib.constants.BROTLI_OPERATION_FLUSH }),
        });
      else if (coding !== 'identity') throw new Error(`the coding "${coding}" is not known`);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE') throw new BombError();
      throw error;
    }
  }
  return out;
}

/** Servers send deflate with and without the zlib wrapper. */
function inflate(bytes: Buffer, options: zlib.ZlibOptions): Buffer {
  try {
    return zlib.inflateSync(bytes, options);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE') throw error;
    return zlib.inflateRawSync(bytes, options);
  }
}
