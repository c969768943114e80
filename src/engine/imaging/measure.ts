import { promisify } from 'node:util';
import zlib from 'node:zlib';
import { transform } from 'esbuild';
import sharp from 'sharp';
import type { Bodies } from '../../core/capture/capture';
import type { MeasuredSizes } from '../../core/checks/finding';
import { readingOnly } from '../../core/checks/weight/textUnminified';
import { pictureUses } from '../../core/source/pictureUse';
import { uncompressedTexts } from '../../core/checks/weight/textUncompressed';
import { contentHash } from '../store/bodies';
import { similarityOf } from './similarity';
import type { Page } from '../../core/source/page';

/** Results that are kept: the pages and sweeps of a site share their pictures, and encoding one takes long. */
const KEPT = 5000;

/** Below this similarity a re-encoded picture is not offered as the same. */
const ALIKE = 0.95;

const gzip = promisify(zlib.gzip);

/** Pictures under this are not worth re-encoding, in bytes. */
const SMALLEST = 12_000;
/** Pictures with more points are left alone. */
const MAX_PIXELS = 60_000_000;

/**
 * Really compresses what came uncompressed and really re-encodes pictures, at their own size and at the displayed one,
 * so that forecasts rest on true sizes. A picture that cannot be read keeps its estimate.
 */
export async function measureSizes(page: Page, bodies: Bodies): Promise<MeasuredSizes> {
  const compressed = new Map<number, number>();
  const resized = new Map<number, number>();
  const reencoded = new Map<number, { bytes: number; similarity: number }>();
  const work: Promise<void>[] = [];
  for (const load of uncompressedTexts(page.capture)) {
    const bytes = bodies.bytes(load);
    if (bytes) work.push(gzip(bytes, { level: 6 }).then((out) => void compressed.set(load.index, out.length)));
  }
  for (const { load, file, needed } of pictureUses(page)) {
    if (load.bodyBytes < SMALLEST || file.width * file.height > MAX_PIXELS || /svg|gif/.test(load.mimeType)) continue;
    const bytes = bodies.bytes(load);
    if (!bytes) continue;
    if ((needed.width * needed.height) / (file.width * file.height) <= 0.95)
      work.push(
        encodedSize(bytes, needed.width, needed.height).then((size) => void (size && resized.set(load.index, size))),
      );
    work.push(
      reencodedSize(bytes, file.width, file.height).then((found) => void (found && reencoded.set(load.index, found))),
    );
  }
  const minified = new Map<number, number>();
  for (const load of page.capture.loads) {
    if ((load.kind !== 'script' && load.kind !== 'style') || load.decodedBytes < SMALLEST) continue;
    const bytes = bodies.bytes(load);
    const text = bytes && page.bodies.text(load);
    // Only what is worth it: a minifier takes its time.
    if (!bytes || !text || readingOnly(text) < text.length * 0.15) continue;
    work.push(
      minifiedSize(bytes, load.kind === 'style' ? 'css' : 'js', load.bodyBytes < load.decodedBytes).then(
        (size) => void minified.set(load.index, size),
      ),
    );
  }
  await Promise.all(work);
  return { compressed, resized, minified, reencoded };
}

/** Bytes of a picture at another size. */
const encodedSize = rememberByContent(
  async (bytes, width, height) => (await encodeAs(bytes, width, height))?.length,
  KEPT,
);

/** Bytes of a picture encoded again at its own size; undefined where that is not smaller or not alike. */
const reencodedSize = rememberByContent(async (bytes, width, height) => {
  const out = await encodeAs(bytes, width, height);
  if (!out || out.length >= bytes.length) return undefined;
  const similarity = await similarityOf(bytes, out);
  return similarity !== undefined && similarity >= ALIKE ? { bytes: out.length, similarity } : undefined;
}, KEPT);

/** Keeps the last results by content and size of the picture. */
function rememberByContent<T>(
  compute: (bytes: Uint8Array, width: number, height: number) => Promise<T>,
  most: number,
): (bytes: Uint8Array, width: number, height: number) => Promise<T> {
  const kept = new Map<string, Promise<T>>();
  return (bytes, width, height) => {
    const key = `${contentHash(bytes)} ${width}x${height}`;
    const result = kept.get(key) ?? compute(bytes, width, height);
    kept.delete(key);
    kept.set(key, result);
    if (kept.size > most) kept.delete(kept.keys().next().value as string);
    return result;
  };
}

async function minifiedSize(bytes: Uint8Array, loader: 'css' | 'js', compressed: boolean): Promise<number> {
  const small = await minified(Buffer.from(bytes), loader);
  return compressed ? (await gzip(small, { level: 6 })).length : small.length;
}

/** Text without what only people read; as it was where it cannot be parsed. */
export async function minified(body: Buffer, loader: 'css' | 'js'): Promise<Buffer> {
  try {
    const options = { loader, minify: true, legalComments: 'none', logLevel: 'silent' } as const;
    return Buffer.from((await transform(body.toString('utf8'), options)).code);
  } catch {
    return body;
  }
}

/** A picture in its own format at a new size, in file pixels; undefined when it cannot be read. */
export async function encodeAs(bytes: Uint8Array, width: number, height: number): Promise<Buffer | undefined> {
  try {
    const image = sharp(bytes, { limitInputPixels: MAX_PIXELS, failOn: 'error' });
    const { format } = await image.metadata();
    const small = image.resize(width, height, { fit: 'fill' });
    const out =
      format === 'png'
        ? small.png({ compressionLevel: 9, palette: true })
        : format === 'webp'
          ? small.webp({ quality: 78 })
          : format === 'heif'
            ? small.avif({ quality: 55 })
            : small.jpeg({ quality: 78, mozjpeg: true });
    return await out.toBuffer();
  } catch {
    return undefined;
  }
}
