import zlib from 'node:zlib';
import type { Decoder, Decoders } from '../../core/capture/decoders';

/** Node.js has it from version 22.15 on. */
const { zstdDecompressSync } = zlib as typeof zlib & {
  zstdDecompressSync?: (bytes: Uint8Array, options: { maxOutputLength: number }) => Buffer;
};

const br: Decoder = (bytes, most) => zlib.brotliDecompressSync(bytes, { maxOutputLength: most });
const zstd: Decoder | undefined =
  zstdDecompressSync && ((bytes, most) => zstdDecompressSync(bytes, { maxOutputLength: most }));

/** Content codings that this machine reads. */
export const CONTENT_DECODERS: Decoders = { br, ...(zstd && { zstd }) };
