/**
 * Records the stand-in site as it was on each day of the year before (site/months.ts), its monthly pages as a phone, into
 * demo/captures/year: one file a day, without pictures, fonts and screenshots. All days, or those that are given.
 */
import fs from 'node:fs/promises';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import { visitorWith } from '../src/core/load/visitors';
import { recordPages } from '../src/engine/record/record';
import { harFile } from '../src/engine/record/writeHar';
import { VERSION } from '../src/core/version';
import { MONTHS, pagesIn } from './site/months';
import { PICTURE_CACHE, serveDemo } from './site/serve';
import { shifted } from './shifted';

const folder = path.join(path.dirname(fileURLToPath(import.meta.url)), 'captures/year');
const only = process.argv.slice(2);
const { constants } = zlib;

await fs.mkdir(folder, { recursive: true });
for (const month of MONTHS) {
  if (only.length > 0 && !only.includes(month)) continue;
  const site = await serveDemo(PICTURE_CACHE, { month });
  try {
    const began = Date.now();
    // The home page is entered as a visitor types it.
    const urls = pagesIn(month).map((at) =>
      at === '/' ? 'http://fernhollow.example/' : `https://www.fernhollow.example${at}`,
    );
    const pages = await recordPages(urls, {
      visitor: visitorWith('phone'),
      mapHosts: site.map,
      acceptAnyCertificate: true,
      runs: 3,
      onProgress: (text) => console.log(`${month}: ${text}`),
    });
    const har = shifted(light(harFile(pages, VERSION)), Date.parse(`${month}T01:04:00.000Z`) - began);
    const params = { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_LGWIN]: 24 };
    await fs.writeFile(path.join(folder, `${month}.har.br`), zlib.brotliCompressSync(har, { params }));
  } finally {
    await site.close();
  }
}
process.exit(0);

/** Without what a history does not need. */
function light(har: string): string {
  return JSON.stringify(JSON.parse(har), (key, value: unknown) => {
    if (key === 'screenshot') return undefined;
    if (key !== 'content' || typeof value !== 'object' || value === null) return value;
    const { mimeType = '' } = value as { mimeType?: string };
    return /^(image|font)\//.test(mimeType) ? { ...value, text: undefined, encoding: undefined } : value;
  });
}
