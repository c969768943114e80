import fs from 'node:fs/promises';
import path from 'node:path';
import sharp from 'sharp';

/** One picture of the stand-in site. Hue, scene and grain come from the name, so that every machine draws the same. */
export interface DemoPicture {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly quality: number;
}

const list = (prefix: string, count: number, width: number, height: number, quality: number): DemoPicture[] =>
  Array.from({ length: count }, (_, i) => ({ name: `${prefix}-${i + 1}.jpg`, width, height, quality }));

export const PICTURES: readonly DemoPicture[] = [
  { name: 'home-border.jpg', width: 2100, height: 1260, quality: 83 },
  { name: 'glasshouse-dawn.jpg', width: 2400, height: 1560, quality: 85 },
  { name: 'plant-sale-tables.jpg', width: 2400, height: 1370, quality: 84 },
  { name: 'seasons-autumn.jpg', width: 1800, height: 1100, quality: 80 },
  { name: 'visit-gate.jpg', width: 1500, height: 900, quality: 80 },
  { name: 'membership-walk-800.jpg', width: 800, height: 480, quality: 66 },
  { name: 'membership-walk-1050.jpg', width: 1050, height: 630, quality: 65 },
  { name: 'membership-walk-1400.jpg', width: 1400, height: 840, quality: 64 },
  { name: 'lecture-room.jpg', width: 640, height: 420, quality: 66 },
  ...list('orchid', 14, 480, 360, 68),
  ...list('seedling', 16, 520, 420, 68),
  ...list('menu', 6, 360, 240, 64),
  ...list('leaf', 8, 420, 300, 64),
];

/** Draws what is missing in `folder` and returns it. */
export async function makePictures(folder: string): Promise<string> {
  await fs.mkdir(folder, { recursive: true });
  for (const picture of PICTURES) {
    const file = path.join(folder, picture.name);
    const there = await fs.stat(file).catch(() => undefined);
    if (there && there.size > 0) continue;
    await sharp(await draw(picture))
      .jpeg({ quality: picture.quality })
      .toFile(file + '.part');
    await fs.rename(file + '.part', file);
  }
  return folder;
}

function seeded(name: string): () => number {
  let state = 2166136261;
  for (const c of name) state = Math.imul(state ^ c.charCodeAt(0), 16777619);
  return () => {
    state = Math.imul(state ^ (state >>> 15), 2246822507);
    state = Math.imul(state ^ (state >>> 13), 3266489909);
    return ((state ^= state >>> 16) >>> 0) / 4294967296;
  };
}

/** A PNG: sky, hills, glass ribs and many leaves, softened, with grain on top: compresses like a photograph. */
export async function draw({ name, width, height }: DemoPicture): Promise<Buffer> {
  const random = seeded(name);
  const hue = Math.floor(70 + random() * 90);
  const warm = Math.floor(20 + random() * 40);
  const shapes: string[] = [];
  for (let i = 0; i < 5; i++) {
    const y = height * (0.35 + i * 0.12);
    const points = Array.from({ length: 9 }, (_, k) => `${(k / 8) * width},${y + (random() - 0.5) * height * 0.16}`);
    shapes.push(
      `<polygon points="0,${height} ${points.join(' ')} ${width},${height}" fill="hsl(${hue + i * 6} ${30 + i * 5}% ${62 - i * 9}%)"/>`,
    );
  }
  if (/glasshouse|orchid/.test(name)) {
    for (let i = 0; i < 12; i++) {
      shapes.push(
        `<path d="M${(i / 12) * width} ${height * 0.75}Q${width / 2} ${-height * 0.3} ${width - (i / 12) * width} ${height * 0.75}" stroke="hsl(${warm} 20% 92%)" stroke-width="${width / 160}" fill="none" opacity=".75"/>`,
      );
    }
  }
  const leaves = Math.round(160 + random() * 120);
  for (let i = 0; i < leaves; i++) {
    const x = random() * width;
    const y = height * (0.4 + random() * 0.6);
    const size = width * (0.008 + random() * 0.03);
    const flower = random() < 0.22;
    const fill = flower
      ? `hsl(${Math.floor(random() * 60 + 310) % 360} 55% ${45 + random() * 35}%)`
      : `hsl(${hue + random() * 40 - 20} ${35 + random() * 25}% ${18 + random() * 40}%)`;
    shapes.push(
      `<ellipse cx="${x}" cy="${y}" rx="${size}" ry="${size * (flower ? 1 : 0.35)}" transform="rotate(${random() * 180} ${x} ${y})" fill="${fill}"/>`,
    );
  }
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><defs><linearGradient id="s" x2="0" y2="1"><stop stop-color="hsl(${200 - warm} 45% 82%)"/><stop offset="1" stop-color="hsl(${warm} 60% 88%)"/></linearGradient></defs><rect width="100%" height="100%" fill="url(#s)"/>${shapes.join('')}</svg>`;
  const grain = Buffer.alloc(width * height);
  for (let i = 0; i < grain.length; i++) grain[i] = 92 + Math.floor(random() * 72);
  const noise = await sharp(grain, { raw: { width, height, channels: 1 } })
    .blur(0.6)
    .png()
    .toBuffer();
  return sharp(Buffer.from(svg))
    .blur(Math.max(0.6, width / 1100))
    .composite([{ input: noise, blend: 'soft-light' }])
    .png()
    .toBuffer();
}
