/**
 * Looks once more how much of each script the demo's pages run, and adds that to the captures in demo/captures and
 * captures/before. Nothing else in them changes: their times are those of the day on which they were recorded.
 */
import fs from 'node:fs/promises';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import { visitorWith } from '../src/core/load/visitors';
import { recordPages } from '../src/engine/record/record';
import { PAGES } from './site/pages';
import { PICTURE_CACHE, serveDemo } from './site/serve';

interface Har {
  log: { pages: { _lens: { observations: { scripts?: unknown; work?: unknown } } }[] };
}

const folder = path.join(path.dirname(fileURLToPath(import.meta.url)), 'captures');
for (const before of [false, true]) {
  const site = await serveDemo(PICTURE_CACHE, { before });
  for (const device of ['phone', 'desktop'] as const)
    for (const page of PAGES) {
      const name = page.path === '/' ? 'home' : page.path.replace(/\//g, '');
      const file = path.join(folder, before ? 'before' : '', `${name}-${device}.har.gz`);
      const [seen] = await recordPages([`https://${page.host}.fernhollow.example${page.path}`], {
        visitor: visitorWith(device),
        mapHosts: site.map,
        acceptAnyCertificate: true,
        runs: 2,
      });
      const { scripts } = (seen?.page._lens as Har['log']['pages'][0]['_lens']).observations;
      const har = JSON.parse(zlib.gunzipSync(await fs.readFile(file)).toString('utf8')) as Har;
      for (const one of har.log.pages) {
        const { work, ...rest } = one._lens.observations;
        one._lens.observations = { ...rest, work, scripts };
      }
      await fs.writeFile(file, zlib.gzipSync(JSON.stringify(har), { level: 9 }));
      console.log(`${file}: ${JSON.stringify(scripts)}`);
    }
  await site.close();
}
process.exit(0);
