/** What truth pages are put together from: libraries from packages, photo-like pictures, made-up words and rules. */
import fs from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import sharp from 'sharp';
import { draw } from '../../demo/site/pictures';
import type { FileSpec } from './site';

const require = createRequire(import.meta.url);
const cache = path.join(path.dirname(fileURLToPath(import.meta.url)), '../../.cache/accuracy/pictures');

export const WWW = 'https://www.fernhollow.example';
export const MEDIA = 'https://media.fernhollow.example';

/** A file of an installed package, as text. Source maps are not part of the page. */
export function library(name: string, file: string): string {
  const text = fs.readFileSync(path.join(path.dirname(require.resolve(`${name}/package.json`)), file), 'utf8');
  return text.replace(/\/[/*]# sourceMappingURL=[^\n]*/g, '');
}

export const BOOTSTRAP_CSS = () => library('bootstrap', 'dist/css/bootstrap.min.css');
export const BOOTSTRAP_JS = () => library('bootstrap', 'dist/js/bootstrap.bundle.min.js');
export const JQUERY = () => library('jquery', 'dist/jquery.min.js');
export const JQUERY_SOURCE = () => library('jquery', 'dist/jquery.js');
export const D3 = () => fs.readFileSync(path.join(path.dirname(require.resolve('d3')), '../dist/d3.min.js'), 'utf8');
export const PAPER = () => library('papaparse', 'papaparse.min.js');
export const MANTINE_CSS = () => fs.readFileSync(require.resolve('@mantine/core/styles.css'), 'utf8');

export const page = (text: string, more: Partial<FileSpec> = {}): FileSpec => ({
  type: 'text/html; charset=utf-8',
  body: Buffer.from(text),
  gzip: true,
  ...more,
});
export const css = (text: string, more: Partial<FileSpec> = {}): FileSpec => ({
  type: 'text/css; charset=utf-8',
  body: Buffer.from(text),
  gzip: true,
  ...more,
});
export const js = (text: string, more: Partial<FileSpec> = {}): FileSpec => ({
  type: 'text/javascript; charset=utf-8',
  body: Buffer.from(text),
  gzip: true,
  ...more,
});

/** A font of an installed package. */
export function font(name: string, file: string, more: Partial<FileSpec> = {}): FileSpec {
  const body = fs.readFileSync(path.join(path.dirname(require.resolve(`${name}/package.json`)), 'files', file));
  return { type: file.endsWith('2') ? 'font/woff2' : 'font/woff', body, ...more };
}

/** A font as it is before it is packed for the web: the tables of a WOFF 1 file, unpacked (WOFF 1.0, 3 to 5). */
export function bareFont(name: string, file: string, more: Partial<FileSpec> = {}): FileSpec {
  const woff = font(name, file).body;
  const count = woff.readUInt16BE(12);
  const head = Buffer.alloc(12 + 16 * count);
  head.writeUInt32BE(woff.readUInt32BE(4), 0);
  head.writeUInt16BE(count, 4);
  const power = Math.floor(Math.log2(count));
  head.writeUInt16BE(16 * 2 ** power, 6);
  head.writeUInt16BE(power, 8);
  head.writeUInt16BE(16 * (count - 2 ** power), 10);
  const parts: Buffer[] = [head];
  let at = head.length;
  for (let i = 0; i < count; i++) {
    const entry = 44 + 20 * i;
    const [offset, packed, length] = [4, 8, 12].map((n) => woff.readUInt32BE(entry + n)) as [number, number, number];
    const raw = woff.subarray(offset, offset + packed);
    const table = packed < length ? zlib.inflateSync(raw) : raw;
    const padded = Buffer.alloc(Math.ceil(length / 4) * 4);
    table.copy(padded);
    const to = 12 + 16 * i;
    woff.copy(head, to, entry, entry + 4);
    woff.copy(head, to + 4, entry + 16, entry + 20);
    head.writeUInt32BE(at, to + 8);
    head.writeUInt32BE(length, to + 12);
    parts.push(padded);
    at += padded.length;
  }
  return { type: 'font/ttf', body: Buffer.concat(parts), ...more };
}

/** A photo-like JPEG; drawn once and kept. */
export async function photo(name: string, width: number, height: number, quality = 70): Promise<FileSpec> {
  const file = path.join(cache, `${name}-${width}x${height}-${quality}.jpg`);
  if (!fs.existsSync(file)) {
    fs.mkdirSync(cache, { recursive: true });
    const png = await draw({ name, width, height, quality });
    await sharp(png)
      .jpeg({ quality })
      .toFile(file + '.part');
    fs.renameSync(file + '.part', file);
  }
  return { type: 'image/jpeg', body: fs.readFileSync(file) };
}

/** Numbers that are the same on every machine. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state ^ (state >>> 15), 2246822507) + 0x9e3779b9) >>> 0;
    state = Math.imul(state ^ (state >>> 13), 3266489909) >>> 0;
    return ((state ^ (state >>> 16)) >>> 0) / 4294967296;
  };
}

const WORDS =
  'fern moss garden path leaf bloom spring autumn border hedge glasshouse orchid seed root pond meadow bench gate visitor season plant grow water light shade early late green quiet open walk along under between many small tall rare common winter summer soil stone wall bird bee orchard apple pear rose lily iris poppy sage thyme mint willow oak birch maple lawn'.split(
    ' ',
  );

/** Sentences about a garden. */
export function words(count: number, seed = 1): string {
  const random = seeded(seed);
  const out: string[] = [];
  let start = true;
  for (let i = 0; i < count; i++) {
    let w = WORDS[Math.floor(random() * WORDS.length)] as string;
    if (start) w = w[0]?.toUpperCase() + w.slice(1);
    start = random() < 0.1;
    out.push(w + (start ? '.' : ''));
  }
  return out.join(' ') + '.';
}

/** Paragraphs. */
export const text = (paragraphs: number, each = 60, seed = 1) =>
  Array.from({ length: paragraphs }, (_, i) => `<p>${words(each, seed * 1000 + i)}</p>`).join('\n');

/** Rules that nothing on the page uses. */
export function idleRules(count: number, prefix: string, seed = 1): string {
  const random = seeded(seed);
  return Array.from(
    { length: count },
    (_, i) =>
      `.${prefix}-${WORDS[i % WORDS.length]}-${i} .${prefix}-part{margin:${Math.floor(random() * 40)}px ${Math.floor(random() * 40)}px;color:hsl(${Math.floor(random() * 360)} 40% ${Math.floor(20 + random() * 60)}%);border-radius:${Math.floor(random() * 20)}px;transition:opacity .${Math.floor(random() * 9) + 1}s}`,
  ).join('\n');
}

/** A script that keeps the main thread busy for about so many ms at factor 1. */
export const busy = (ms: number, name = 'work') =>
  `(function(){var sum=0;for(var i=0;i<${Math.round(ms * 62_000)};i++){sum=(sum*31+i)%1000003}window.${name}=sum})();`;

/** A grid of pictures. */
export const figures = (urls: readonly string[], attributes = 'width="480" height="360"') =>
  `<div class="grid">${urls.map((u, i) => `<figure><img src="${u}" alt="" ${attributes}><figcaption>${words(4, i + 1)}</figcaption></figure>`).join('\n')}</div>`;

export const BASE_CSS = `body{margin:0;font-family:Georgia,serif;color:#26302b;background:#f6f3ea;line-height:1.6}
.site-head{background:#33453c;color:#eef2ea;padding:14px 20px}.site-head a{color:#eef2ea;margin-right:14px}
h1{font-size:2rem;margin:18px 0 10px}main{max-width:1060px;margin:0 auto;padding:0 18px 40px}
.banner img{display:block;width:100%;height:auto;aspect-ratio:5/4;object-fit:cover}
.grid{display:grid;grid-template-columns:repeat(2,1fr);gap:12px}.grid figure{margin:0}
.grid img{width:100%;height:auto;aspect-ratio:4/3;object-fit:cover;display:block;background:#e3e7dc}
@media (min-width:900px){.grid{grid-template-columns:repeat(4,1fr)}}
footer{background:#26302b;color:#cfd6cd;padding:20px}`;

export const HEAD =
  '<header class="site-head"><strong>Fernhollow Botanic Garden</strong> <a href="/visit/">Visit</a><a href="/plants/">Plants</a></header>';

/** Numbered names. */
export const names = (prefix: string, count: number) => Array.from({ length: count }, (_, i) => `${prefix}-${i + 1}`);
