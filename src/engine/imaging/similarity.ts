import sharp from 'sharp';

/** Pictures are compared at no more than this width, in points: more costs time and changes nothing. */
const WIDEST = 800;
const BLOCK = 8;

/**
 * Structural similarity of two pictures of one size (mean SSIM of the lightness, over blocks of 8 x 8 points): 1 for the
 * same, about 0.95 where a trained eye begins to see a difference. Undefined when one cannot be read.
 */
export async function similarityOf(a: Uint8Array, b: Uint8Array): Promise<number | undefined> {
  try {
    const [x, y] = await Promise.all([lightness(a), lightness(b)]);
    if (x.width !== y.width || x.height !== y.height) return undefined;
    return Math.round(1000 * ssim(x.points, y.points, x.width, x.height)) / 1000;
  } catch {
    return undefined;
  }
}

async function lightness(bytes: Uint8Array): Promise<{ points: Buffer; width: number; height: number }> {
  const { data, info } = await sharp(bytes)
    .flatten({ background: '#888' })
    .resize({ width: WIDEST, withoutEnlargement: true })
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { points: data, width: info.width, height: info.height };
}

/** Mean of the similarity of blocks, with the usual constants for 8 bits (Wang and others, 2004). */
function ssim(x: Uint8Array, y: Uint8Array, width: number, height: number): number {
  const c1 = (0.01 * 255) ** 2;
  const c2 = (0.03 * 255) ** 2;
  let sum = 0;
  let blocks = 0;
  for (let top = 0; top < height; top += BLOCK)
    for (let left = 0; left < width; left += BLOCK) {
      const bottom = Math.min(height, top + BLOCK);
      const right = Math.min(width, left + BLOCK);
      const n = (bottom - top) * (right - left);
      let [mx, my, xx, yy, xy] = [0, 0, 0, 0, 0];
      for (let r = top; r < bottom; r++)
        for (let c = left; c < right; c++) {
          const p = x[r * width + c] ?? 0;
          const q = y[r * width + c] ?? 0;
          mx += p;
          my += q;
          xx += p * p;
          yy += q * q;
          xy += p * q;
        }
      mx /= n;
      my /= n;
      const vx = xx / n - mx * mx;
      const vy = yy / n - my * my;
      const cov = xy / n - mx * my;
      sum += ((2 * mx * my + c1) * (2 * cov + c2)) / ((mx * mx + my * my + c1) * (vx + vy + c2));
      blocks++;
    }
  return blocks === 0 ? 1 : sum / blocks;
}
