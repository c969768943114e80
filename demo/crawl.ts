/** Crawls the stand-in site, as it is and as it was three weeks before, into demo/crawl: `npm run demo:crawl`. */
import fs from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import { defaultSettings, type SweepSettings } from '../src/core/site/settings';
import { Control } from '../src/engine/crawl/control';
import { crawl } from '../src/engine/crawl/crawl';
import { finishSweep } from '../src/engine/services/finishSweep';
import { CRAWL_TABLES } from '../src/engine/store/crawlTables';
import { addSite } from '../src/engine/store/sites';
import { openStore } from '../src/engine/store/store';
import { addSweep } from '../src/engine/store/sweeps';
import { PICTURE_CACHE, serveDemo } from './site/serve';

const HOME = 'https://www.fernhollow.example/';
const here = path.dirname(fileURLToPath(import.meta.url));
const own = JSON.parse(await fs.readFile(path.join(here, 'sweep.json'), 'utf8')) as SweepSettings;
await fs.mkdir(path.join(here, 'crawl'), { recursive: true });
for (const name of ['now', 'before']) {
  // A garden of a size that a sweep is for; it has grown since.
  const site = await serveDemo(PICTURE_CACHE, { before: name === 'before', pages: name === 'before' ? 80 : 90 });
  const folder = await fs.mkdtemp(path.join(os.tmpdir(), 'keen-lens-crawl-'));
  const store = await openStore(folder);
  const settings = { ...defaultSettings(HOME), ...own, mapHosts: site.map };
  const { id } = await addSite(store, 'Fernhollow Botanic Garden', HOME);
  const sweepId = await addSweep(store, id, settings);
  await crawl(store, sweepId, settings, { control: new Control() });
  await finishSweep(store, sweepId);
  const tables: Record<string, unknown[]> = {};
  for (const table of CRAWL_TABLES)
    tables[table] = await store.selectFrom(table).selectAll().where('sweep_id', '=', sweepId).execute();
  await fs.writeFile(path.join(here, `crawl/${name}.json.gz`), zlib.gzipSync(JSON.stringify(tables), { level: 9 }));
  console.log(`${name}: ${CRAWL_TABLES.map((t) => `${tables[t]?.length ?? 0} ${t}`).join(', ')}`);
  await store.destroy();
  await fs.rm(folder, { recursive: true, force: true });
  await site.close();
}
process.exit(0);
