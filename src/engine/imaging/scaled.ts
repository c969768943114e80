import sharp from 'sharp';

/** Pictures with more points are left as they are. */
const MOST_POINTS = 50_000_000;

/** A picture as WebP, so many pixels wide at most, for a list; undefined for one that cannot be read or is no larger. */
export async function scaledTo(bytes: Uint8Array, width: number): Promise<Buffer | undefined> {
  try {
    const picture = sharp(bytes, { limitInputPixels: MOST_POINTS });
    const found = await picture.metadata();
    if (found.width <= width) return undefined;
    return await picture.resize({ width }).webp({ quality: 80 }).toBuffer();
  } catch {
    return undefined;
  }
}
