/**
 * Records the stand-in site, phone and desktop, into demo/captures: as it is, and as it was three weeks before
 * (captures/before); all pages, or those whose names are given.
 */
import fs from 'node:fs/promises';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import { visitorWith } from '../src/core/load/visitors';
import { recordPages } from '../src/engine/record/record';
import { harFile } from '../src/engine/record/writeHar';
import { VERSION } from '../src/core/version';
import { PAGES } from './site/pages';
import { shifted } from './shifted';
import { PICTURE_CACHE, serveDemo } from './site/serve';

const THREE_WEEKS_MS = 21 * 24 * 3_600_000;
const folder = path.join(path.dirname(fileURLToPath(import.meta.url)), 'captures');
const only = process.argv.slice(2);

await recordSite(folder, false);
await recordSite(path.join(folder, 'before'), true);
process.exit(0);

async function recordSite(into: string, before: boolean): Promise<void> {
  await fs.mkdir(into, { recursive: true });
  const site = await serveDemo(PICTURE_CACHE, { before });
  try {
    for (const device of ['phone', 'desktop'] as const) {
      for (const page of PAGES) {
        const name = page.path === '/' ? 'home' : page.path.replace(/\//g, '');
        if (only.length > 0 && !only.includes(name)) continue;
        // The home page is entered as a visitor types it.
        const url =
          page.path === '/' ? 'http://fernhollow.example/' : `https://${page.host}.fernhollow.example${page.path}`;
        const pages = await recordPages([url], {
          visitor: visitorWith(device),
          mapHosts: site.map,
          acceptAnyCertificate: true,
          runs: 3,
          onProgress: (text) => console.log(`${before ? 'before, ' : ''}${device}: ${text}`),
        });
        const har = harFile(pages, VERSION);
        await fs.writeFile(
          path.join(into, `${name}-${device}.har.gz`),
          zlib.gzipSync(before ? shifted(har, -THREE_WEEKS_MS) : har, { level: 9 }),
        );
      }
    }
  } finally {
    await site.close();
  }
}
