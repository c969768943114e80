/** What bench/crawl.ts measures, each in a process of its own that loads nothing else. */
import { performance } from 'node:perf_hooks';
import { gunzipSync } from 'node:zlib';
import { parse } from 'parse5';
import { request } from 'undici';
import { Catalogue } from '../demo/site/catalogue';
import { hostMap, WWW } from '../demo/site/hosts';
import { PAGES } from '../demo/site/pages';
import { defaultSettings, type SweepSettings } from '../src/core/site/settings';
import { crawlAgent } from '../src/engine/crawl/connector';
import { Control } from '../src/engine/crawl/control';
import { crawl } from '../src/engine/crawl/crawl';
import { finishSweep } from '../src/engine/services/finishSweep';
import { addSite } from '../src/engine/store/sites';
import { openStore } from '../src/engine/store/store';
import { addSweep, endSweep } from '../src/engine/store/sweeps';

/** Pages of the enlarged site. */
export const SITE_PAGES = 10_000;
const PARALLEL = 16;

function settings(): SweepSettings {
  const port = (process.getuid?.() ?? 1) === 0 ? { http: 80, https: 443 } : { http: 8080, https: 8443 };
  return {
    ...defaultSettings(`${WWW}/`),
    perSecond: 0,
    parallel: PARALLEL,
    maxPages: 100_000,
    acceptAnyCertificate: true,
    mapHosts: hostMap(port),
  };
}

/** Fetch and parse, nothing else: the least that any crawl has to do. */
async function bare(): Promise<void> {
  const own = PAGES.filter((p) => p.host === 'www').map((p) => p.path);
  const paths = [...own, ...new Catalogue(SITE_PAGES - own.length).paths()];
  const dispatcher = crawlAgent(settings());
  const start = performance.now();
  let next = 0;
  await Promise.all(
    Array.from({ length: PARALLEL }, async () => {
      for (let at = next++; at < paths.length; at = next++) {
        const headers = { 'accept-encoding': 'gzip' };
        const answer = await request(WWW + (paths[at] ?? ''), { dispatcher, headers });
        const body = Buffer.from(await answer.body.arrayBuffer());
        const text = answer.headers['content-encoding'] === 'gzip' ? gunzipSync(body) : body;
        parse(text.toString('utf8'), { sourceCodeLocationInfo: true });
      }
    }),
  );
  report({ ms: performance.now() - start, pages: paths.length });
  await dispatcher.destroy();
}

async function sweep(data: string): Promise<void> {
  const store = await openStore(data);
  const how = settings();
  const site = await addSite(store, 'Fernhollow', how.home);
  const id = await addSweep(store, site.id, how);
  const memory = new Map<number, number>();
  const start = performance.now();
  await crawl(store, id, how, {
    control: new Control(),
    onProgress: (p) => memory.set(p.done, process.memoryUsage().rss),
  });
  const sweepMs = performance.now() - start;
  await finishSweep(store, id);
  const finishMs = performance.now() - start - sweepMs;
  await endSweep(store, id);
  const { pages } = await store
    .selectFrom('pages')
    .select((e) => e.fn.countAll<number>().as('pages'))
    .where('state', '=', 'done')
    .executeTakeFirstOrThrow();
  const at = (wanted: number) => [...memory].find(([done]) => done >= wanted)?.[1] ?? 0;
  report({
    pages,
    sweepMs,
    finishMs,
    firstMb: at(1000) / 1e6,
    lastMb: at(pages - 1000) / 1e6,
    highestMb: process.resourceUsage().maxRSS / 1000,
  });
  await store.destroy();
}

function report(figures: object): void {
  console.log(JSON.stringify(figures));
}

if (process.argv[2] === 'bare') await bare();
else if (process.argv[2] === 'sweep') await sweep(process.argv[3] ?? '');
