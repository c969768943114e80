/** Probes the stand-in site with every entrance fault and asks for its lists, into demo/https.json.gz: `npm run demo:https`. */
import fs from 'node:fs/promises';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import { readOutsideList } from '../src/core/site/lists/outsideList';
import { defaultSettings, type SweepSettings } from '../src/core/site/settings';
import { Control } from '../src/engine/crawl/control';
import { crawl } from '../src/engine/crawl/crawl';
import { askFates } from '../src/engine/services/askFates';
import { finishSweep } from '../src/engine/services/finishSweep';
import { makeProbe } from '../src/engine/probe/probePlan';
import { keepProbe, planProbe } from '../src/engine/services/probeSite';
import { readListFile } from '../src/engine/services/readListFile';
import type { DemoHttps } from '../src/engine/services/seedHttps';
import { knownProbes } from '../src/engine/store/knownProbes';
import { lastProbe } from '../src/engine/store/probes';
import { addSite } from '../src/engine/store/sites';
import { openStore } from '../src/engine/store/store';
import { addSweep } from '../src/engine/store/sweeps';
import { days, INDEX_STATE, OLD_SITEMAP, performance } from './lists';
import { ADDED_HOSTS, serveEntrances } from './site/entrances';
import { PICTURE_CACHE } from './site/serve';

const HOME = 'https://www.fernhollow.example/';
const here = path.dirname(fileURLToPath(import.meta.url));
const own = JSON.parse(await fs.readFile(path.join(here, 'sweep.json'), 'utf8')) as SweepSettings;
const site = await serveEntrances(PICTURE_CACHE);
const folder = await fs.mkdtemp('/tmp/keen-lens-https-');
const store = await openStore(folder);
const settings: SweepSettings = {
  ...defaultSettings(HOME),
  ...own,
  mapHosts: site.map,
  acceptAnyCertificate: false,
  // One after the other: times are shown, and this machine serves what it asks for.
  parallel: 2,
  entrances: { withSweep: false, hosts: ADDED_HOSTS, perTemplate: 3, outsideLinks: true },
};
const { id } = await addSite(store, 'Fernhollow Botanic Garden', HOME);
const sweepId = await addSweep(store, id, settings);
const context = { control: new Control(), onProgress: () => undefined };
await crawl(store, sweepId, { ...settings, acceptAnyCertificate: true }, context);
await finishSweep(store, sweepId);
const { signal } = context.control;
const plan = await planProbe(store, { siteId: id, settings, sweepId });
await keepProbe(store, id, sweepId, await makeProbe(plan, { roots: [site.root], signal, onStep: () => undefined }));
const probe = await lastProbe(store, id);
if (!probe) throw new Error('the probe brought nothing');
const { probes, living } = await knownProbes(store, sweepId);
const lists: DemoHttps['lists'][number][] = [];
for (const [name, text] of [
  ['old-sitemap.xml', OLD_SITEMAP],
  ['index-state.tsv', INDEX_STATE],
  ['days.csv', days()],
  ['pages-before-move.csv', performance('before')],
  ['pages-after-move.csv', performance('after')],
] as const) {
  const list = readOutsideList(await readListFile(Buffer.from(text), name), HOME);
  const report =
    list.kind === 'days' ? undefined : await askFates(list, { settings, roots: [site.root], signal }, probes, living);
  lists.push({ name, list, report });
  console.log(`${name}: ${list.kind}, ${report?.groups.map((g) => `${g.count} ${g.fate}`).join(', ') ?? 'days'}`);
}
const { entrances, certificates, hsts, versions, harmlessLinks, outsideLinks, robots } = probe;
// As if it had been part of the shipped sweep.
const askedAt = '2026-11-26T01:26:00.000Z';
const demo: DemoHttps = {
  probe: { askedAt, entrances, certificates, hsts, versions, harmlessLinks, outsideLinks, robots },
  lists,
};
await fs.writeFile(path.join(here, 'https.json.gz'), zlib.gzipSync(JSON.stringify(demo), { level: 9 }));
for (const e of probe.entrances) console.log(`${e.verdict.padEnd(18)} ${e.why.padEnd(8)} ${e.from}`);
for (const c of probe.certificates) console.log(c.host, c.daysLeft, c.faults.join(', '));
console.log(probe.versions.map((v) => `${v.verdict}: ${v.url}`).join('\n'));
await store.destroy();
await fs.rm(folder, { recursive: true, force: true });
await site.close();
process.exit(0);
