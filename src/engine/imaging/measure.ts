import { promisify } from 'node:util';
import zlib from 'node:zlib';
import { transform } from 'esbuild';
import sharp from 'sharp';
import type { Bodies } from '../../core/capture/capture';
import type { MeasuredSizes } from '../../core/checks/finding';
import { readingOnly } from '../../core/checks/weight/textUnminified';
import { neededPixels } from '../../core/checks/weight/imageOversized';
import { isUncompressedText } from '../../core/checks/weight/textUncompressed';
import type { Page } from '../../core/source/page';

const gzip = promisify(zlib.gzip);

/** Pictures under this are not worth re-encoding, in bytes. */
const SMALLEST = 12_000;
/** Longest time that re-encoding one picture may take. */
const MAX_PIXELS = 60_000_000;

/**
 * Really compresses what came uncompressed and really re-encodes what has too many pixels, so that
 * forecasts rest on true sizes. A picture that cannot be read keeps its estimate.
 */
export async function measureSizes(page: Page, bodies: Bodies): Promise<MeasuredSizes> {
  const compressed = new Map<number, number>();
  const resized = new Map<number, number>();
  const work: Promise<void>[] = [];
  for (const load of page.capture.loads.filter(isUncompressedText)) {
    const bytes = bodies.bytes(load);
    if (bytes) work.push(gzip(bytes, { level: 6 }).then((out) => void compressed.set(load.index, out.length)));
  }
  const density = page.capture.conditions.density;
  const seen = new Set<number>();
  for (const p of page.pictures) {
    const load = page.loadOf(p.url);
    const file = page.filePixels(p);
    if (!load || !file || !p.visible || load.bodyBytes < SMALLEST || seen.has(load.index)) continue;
    if (file.width * file.height > MAX_PIXELS || /svg|gif/.test(load.mimeType)) continue;
    const bytes = bodies.bytes(load);
    const needed = neededPixels(p.box.width, p.box.height, file.width, file.height, density);
    if (!bytes || (needed.width * needed.height) / (file.width * file.height) > 0.95) continue;
    seen.add(load.index);
    work.push(
      reencode(bytes, needed.width, needed.height).then((size) => void (size && resized.set(load.index, size))),
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
  return { compressed, resized, minified };
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

/** Size of a picture in its own format at a new size; undefined when it cannot be read. */
async function reencode(bytes: Uint8Array, width: number, height: number): Promise<number | undefined> {
  return (await encodeAs(bytes, width, height))?.length;
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
