/** Records the stand-in site, phone and desktop, into demo/captures: all pages, or those whose names are given. */
import fs from 'node:fs/promises';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import { parseVisitor } from '../src/core/load/visitors';
import { recordPages } from '../src/engine/record/record';
import { harFile } from '../src/engine/record/writeHar';
import { PAGES } from './site/pages';
import { PICTURE_CACHE, serveDemo } from './site/serve';
import { VERSION } from '../src/core/version';

const folder = path.join(path.dirname(fileURLToPath(import.meta.url)), 'captures');
const only = process.argv.slice(2);
await fs.mkdir(folder, { recursive: true });
const site = await serveDemo(PICTURE_CACHE);
try {
  for (const device of ['phone', 'desktop'] as const) {
    for (const page of PAGES) {
      const name = page.path === '/' ? 'home' : page.path.replace(/\//g, '');
      if (only.length > 0 && !only.includes(name)) continue;
      // The home page is entered as a visitor types it.
      const url =
        page.path === '/' ? 'http://fernhollow.example/' : `https://${page.host}.fernhollow.example${page.path}`;
      const pages = await recordPages([url], {
        visitor: parseVisitor(device === 'phone' ? 'phone-busy' : 'desktop'),
        mapHosts: site.map,
        acceptAnyCertificate: true,
        runs: 3,
        onProgress: (text) => console.log(`${device}: ${text}`),
      });
      await fs.writeFile(
        path.join(folder, `${name}-${device}.har.gz`),
        zlib.gzipSync(harFile(pages, VERSION), { level: 9 }),
      );
    }
  }
} finally {
  await site.close();
}
process.exit(0);
