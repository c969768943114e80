import sharp from 'sharp';
import type { DrawnOn, PictureVersion } from '../../core/pictures/versionMarkup';
import { similarityOf } from './similarity';

/** Points of a picture that are read at most. */
const MAX_PIXELS = 100e6;
/** Similarity from which a trained eye sees no difference. */
const ALIKE = 0.95;
/** Qualities that are tried, from the smallest file on: the first that is alike is taken, else the last. */
const QUALITIES = { avif: [45, 55, 65, 75], webp: [62, 72, 80, 88] } as const;

/** What a picture is, and its smaller versions with their bytes. */
export interface MadeVersions {
  readonly width: number;
  readonly height: number;
  readonly versions: readonly (PictureVersion & { readonly content: Buffer })[];
}

/**
 * Makes AVIF and WebP of a picture at the sizes at which devices draw it, never larger than it is; undefined for what is
 * no picture that can be read.
 */
export async function makeVersions(bytes: Uint8Array, drawn: readonly DrawnOn[]): Promise<MadeVersions | undefined> {
  try {
    const { width, height } = await sharp(bytes, { limitInputPixels: MAX_PIXELS }).metadata();
    const widths = new Set(
      drawn.map((d) => Math.min(width, Math.max(1, Math.ceil(coverWidth(d, width / height) * d.density)))),
    );
    const out: MadeVersions['versions'][number][] = [];
    for (const w of [...widths].sort((a, b) => a - b))
      for (const format of ['avif', 'webp'] as const) {
        const made = await encode(bytes, w, Math.max(1, Math.round((w * height) / width)), format);
        // One that is no smaller than the original helps nobody.
        if (made.bytes < bytes.length) out.push(made);
      }
    return { width, height, versions: out };
  } catch {
    return undefined;
  }
}

/** Width of the whole picture when it covers its box: a box of another shape shows a part of it. */
function coverWidth(d: DrawnOn, shape: number): number {
  return Math.max(d.width, d.height * shape);
}

async function encode(
  bytes: Uint8Array,
  width: number,
  height: number,
  format: 'avif' | 'webp',
): Promise<MadeVersions['versions'][number]> {
  const scaled = await sharp(bytes, { limitInputPixels: MAX_PIXELS })
    .resize(width, height, { fit: 'fill' })
    .png()
    .toBuffer();
  let made: MadeVersions['versions'][number] | undefined;
  for (const quality of QUALITIES[format]) {
    const image = sharp(scaled);
    const content = await (format === 'avif' ? image.avif({ quality, effort: 3 }) : image.webp({ quality })).toBuffer();
    const similarity = await similarityOf(scaled, content);
    made = { format, width, height, bytes: content.length, quality, similarity, content };
    if (similarity === undefined || similarity >= ALIKE) break;
  }
  return made as MadeVersions['versions'][number];
}
