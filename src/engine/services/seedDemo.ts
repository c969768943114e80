import fs from 'node:fs/promises';
import path from 'node:path';
import zlib from 'node:zlib';
import type { SweepSettings } from '../../core/site/settings';
import { insertCrawl, type CrawlRows } from '../store/crawlTables';
import { readField } from '../../core/field/readField';
import { addFieldFile, listFieldFiles } from '../store/fieldFiles';
import { addSite, listSites, saveSiteSettings, siteSettings, type SiteRow } from '../store/sites';
import { addPastSweep, listSweeps } from '../store/sweeps';
import { projectRoot, type Store } from '../store/store';
import { importHar } from './importHar';
import { seedHttps } from './seedHttps';
import { seedPlans } from './seedPlans';
import { seedWatch } from './seedWatch';
import { keepForecasts } from './keepForecasts';

const HOME = 'https://www.fernhollow.example/';

/** The sweeps of the demo, the older one first: what it was like, and when it ran. */
const SWEEPS = [
  { folder: 'before', crawl: 'before', startedAt: '2026-11-05T01:00:00.000Z', endedAt: '2026-11-05T01:24:00.000Z' },
  { folder: '', crawl: 'now', startedAt: '2026-11-26T01:00:00.000Z', endedAt: '2026-11-26T01:25:00.000Z' },
] as const;

/**
 * Puts in the shipped sweeps of the stand-in site: page facts of a crawl and captures of its main pages. What is there
 * already is left alone.
 */
export async function seedDemo(
  store: Store,
  onProgress: (text: string) => void = () => undefined,
): Promise<{ captures: number; siteId?: number }> {
  const folder = path.join(projectRoot(), 'demo/captures');
  const known = (await listSites(store)).find((s) => s.home === HOME);
  const site = known ?? (await addDemoSite(store));
  const settings = await siteSettings(store, site);
  let captures = 0;
  let latest = 0;
  for (const sweep of SWEEPS) {
    const files = await captureFiles(folder, sweep.folder);
    const day = sweep.startedAt.slice(0, 10);
    const there = (await listSweeps(store, site.id)).find((s) => s.day === day);
    let sweepId = there?.id;
    if (sweepId === undefined) {
      onProgress(`demo: pages of ${day}`);
      const packed = await fs.readFile(path.join(projectRoot(), `demo/crawl/${sweep.crawl}.json.gz`));
      const rows = JSON.parse(zlib.gunzipSync(packed).toString('utf8')) as CrawlRows;
      sweepId = await store.transaction().execute(async (tx) => {
        const id = await addPastSweep(tx, site.id, settings, sweep);
        await insertCrawl(tx, id, rows, sweep.startedAt);
        return id;
      });
    }
    for (const [i, file] of files.entries()) {
      onProgress(`demo, ${day}: ${i + 1} of ${files.length}: ${path.basename(file)}`);
      const bytes = await fs.readFile(path.join(folder, file));
      const result = await importHar(store, bytes, path.basename(file), { siteId: site.id, sweepId });
      captures += result.captures.length;
    }
    latest = sweepId;
  }
  await seedHttps(store, site.id, latest || null);
  await seedWatch(store, site.id);
  await seedField(store, site.id);
  captures += await seedYear(store, site, onProgress);
  await seedPlans(store, site.id);
  onProgress('demo: forecasts');
  await keepForecasts(store, latest);
  return { captures, siteId: site.id };
}

/** Sweeps of the year before, in small: some pages as a phone, one file a day (demo/year.ts). Gives the captures of all. */
async function seedYear(store: Store, site: SiteRow, onProgress: (text: string) => void): Promise<number> {
  const folder = path.join(projectRoot(), 'demo/captures/year');
  const there = new Set((await listSweeps(store, site.id)).map((s) => s.day));
  let captures = 0;
  for (const name of (await fs.readdir(folder).catch(() => [])).sort()) {
    const day = name.slice(0, 10);
    if (!name.endsWith('.har.br') || there.has(day)) continue;
    onProgress(`demo: the year before, ${day}`);
    const bytes = zlib.brotliDecompressSync(await fs.readFile(path.join(folder, name)));
    const sweepId = await addPastSweep(store, site.id, await siteSettings(store, site), {
      startedAt: `${day}T01:00:00.000Z`,
      endedAt: `${day}T01:09:00.000Z`,
    });
    captures += (await importHar(store, bytes, name, { siteId: site.id, sweepId })).captures.length;
  }
  return captures;
}

/** What the garden's made-up visitors came to (demo/field.ts). */
async function seedField(store: Store, siteId: number): Promise<void> {
  if ((await listFieldFiles(store, siteId)).length > 0) return;
  const file = path.join(projectRoot(), 'demo/field.csv');
  const text = await fs.readFile(file, 'utf8').catch(() => undefined);
  if (text !== undefined) await addFieldFile(store, siteId, 'field.csv', readField(text, HOME, file));
}

async function addDemoSite(store: Store): Promise<SiteRow> {
  const site = await addSite(store, 'Fernhollow Botanic Garden', HOME);
  const own = JSON.parse(await fs.readFile(path.join(projectRoot(), 'demo/sweep.json'), 'utf8')) as SweepSettings;
  await saveSiteSettings(store, site.id, { ...(await siteSettings(store, site)), ...own, mapHosts: portsOf(own) });
  return site;
}

async function captureFiles(folder: string, within: string): Promise<string[]> {
  const files = await fs.readdir(path.join(folder, within));
  return files
    .filter((f) => f.endsWith('.har.gz'))
    .sort()
    .map((f) => path.join(within, f));
}

/** Where the stand-in site listens: on the usual ports where this user may, else on others (see demo/site). */
function portsOf(settings: SweepSettings): string[] {
  if (process.getuid?.() === 0) return [...settings.mapHosts];
  return settings.mapHosts.map((m) => m.replace(/:80$/, ':8080').replace(/:443$/, ':8443'));
}
