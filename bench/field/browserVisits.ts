import fs from 'node:fs';
import path from 'node:path';
import { linksOf, type Mix } from '../../src/core/field/mix';
import { unit } from '../../src/core/load/browser';
import type { Link } from '../../src/core/load/graph';
import { projectRoot } from '../../src/engine/store/store';
import { machine } from '../machine';
import { withRig, type Rig } from '../accuracy/link';
import { calm, MOST_STEAL, paused, recordTo } from '../accuracy/measure';
import { TRUTH_PAGES } from '../accuracy/pages';
import type { Files, TruthPage } from '../accuracy/site';
import { CACHE } from '../accuracy/store';
import { auditCapture, makeVariant, type KeptFix } from '../accuracy/variants';
import { browserFor, visit, type NearBrowser } from '../accuracy/visit';
import type { Load } from './judge';

/** Pages that are visited, each with the variant that has two fixes. */
const PAGES = [
  { name: 'plant-sale', variant: 'eager and re-encoded' },
  { name: 'home', variant: 'preloaded, imports linked' },
  { name: 'seasons', variant: 'preloaded and compressed' },
] as const;
const MIX: Mix = { rttMs: 110, downKbps: 4000, cpuFactor: 3, spread: 1.6 };
/** Links drawn for the fast, the middling and the slow visitor: as many as the weights of a mix say. */
const DRAWN = [6, 8, 6] as const;
/** Visits on each link to each page, as it is and with its fixes. */
const VISITS = { now: 4, after: 2 } as const;
const MOST_REPEATS = 3;

/** What browsers came to over drawn links. */
export interface BrowserVisits {
  readonly measured: string;
  readonly mix: Mix;
  readonly links: readonly Link[];
  readonly pages: readonly {
    readonly page: string;
    readonly fixes: readonly KeptFix[];
    readonly now: Load[];
    readonly after: Load[];
  }[];
}

const FILE = path.join(projectRoot(), 'bench/results/fieldVisits.json');

/** What was measured last; undefined before the first time. */
export function keptVisits(): BrowserVisits | undefined {
  return fs.existsSync(FILE) ? (JSON.parse(fs.readFileSync(FILE, 'utf8')) as BrowserVisits) : undefined;
}

/** A link of the mix with luck of its own: round trip, rate and processor of no two visitors are the same. */
function drawnLinks(): Link[] {
  return DRAWN.flatMap((count, which) =>
    Array.from({ length: count }, (_, i) => {
      const link = linksOf(MIX)[which] as Link;
      const around = (k: number, spread: number) => Math.exp((unit(which * 100 + i + 501, k) * 2 - 1) * spread);
      return {
        rttMs: Math.round(link.rttMs * around(1, 0.2)),
        downKbps: Math.round(link.downKbps * around(2, 0.2)),
        upKbps: Math.round(link.upKbps * around(2, 0.2)),
        cpuFactor: Math.round(link.cpuFactor * around(3, 0.25) * 100) / 100,
      };
    }),
  );
}

/** Visits the pages by real browsers over the rig; needs what `bench:accuracy -- --measure` needs. Goes on where it was ended. */
export function measureVisits(): Promise<void> {
  return withRig(async (rig) => {
    const pages = [];
    for (const p of PAGES) pages.push(await madeReady(rig, p.name, p.variant));
    const links = drawnLinks();
    const part = FILE + '.part';
    const kept = fs.existsSync(part) ? (JSON.parse(fs.readFileSync(part, 'utf8')) as BrowserVisits) : undefined;
    const result: BrowserVisits = {
      measured: machine(),
      mix: MIX,
      links,
      pages: kept?.pages ?? pages.map((p) => ({ page: p.page.name, fixes: p.fixes, now: [], after: [] })),
    };
    const done = Math.min(...result.pages.map((p) => p.after.length / VISITS.after));
    for (const [i, link] of links.entries()) {
      if (i < done) continue;
      await rig.link(link.rttMs, link.downKbps, link.upKbps);
      for (const [k, page] of pages.entries()) {
        const { now, after } = await visitsOf(rig, page, link.cpuFactor);
        const own = result.pages[k] as BrowserVisits['pages'][number];
        own.now.push(...now);
        own.after.push(...after);
        console.error(
          `${new Date().toISOString().slice(11, 19)} link ${i + 1} of ${links.length}, ${page.page.name}: ${now.map((l) => l.lcpMs).join(' ')} | ${after.map((l) => l.lcpMs).join(' ')}`,
        );
      }
      fs.writeFileSync(part, JSON.stringify(result, null, 1) + '\n');
    }
    fs.renameSync(part, FILE);
  });
}

/** Visits to one page over the link that is up, as it is and with its fixes in turn. */
async function visitsOf(
  rig: Rig,
  { page, files, fixed }: Awaited<ReturnType<typeof madeReady>>,
  cpuFactor: number,
): Promise<{ now: Load[]; after: Load[] }> {
  await rig.hosts(page.hosts);
  const browser = browserFor(page.hosts, rig.keyHash);
  const once = (f: Files) => visitOnce(rig, browser, page, f, cpuFactor);
  // The first visit to hosts is slower than the rest.
  await once(files);
  const [now, after]: [Load[], Load[]] = [[], []];
  for (let n = 0; n < VISITS.now; n++) {
    now.push(await once(files));
    if (n < VISITS.after) after.push(await once(fixed));
  }
  return { now, after };
}

/** The files of a page, and those with the variant's fixes as a developer would have written them. */
async function madeReady(rig: Rig, name: string, variant: string) {
  const page = TRUTH_PAGES.find((p) => p.name === name) as TruthPage;
  const files = await page.files();
  const har = path.join(CACHE, 'field', `${name}.har`);
  if (!fs.existsSync(har)) await recordTo(har, rig, page, files);
  const audit = await auditCapture(fs.readFileSync(har));
  const requests = page.variants.find((v) => v.name === variant)?.fixes ?? [];
  const { files: fixed, fixes } = await makeVariant(files, audit, requests);
  return { page, files, fixed, fixes };
}

async function visitOnce(
  rig: Rig,
  browser: NearBrowser,
  page: TruthPage,
  files: Files,
  cpuFactor: number,
): Promise<Load> {
  await paused();
  await rig.files(files);
  for (let n = 0; ; n++) {
    const [seen] = await visit(browser, page.url, { cpuFactor, screen: page.screen ?? 'phone' });
    await rig.hangUp();
    if (!seen) throw new Error(`${page.name}: no visit`);
    if ((seen.steal <= MOST_STEAL && seen.lcpMs >= 0) || n === MOST_REPEATS)
      return { ttfbMs: seen.ttfbMs, fcpMs: seen.fcpMs, lcpMs: seen.lcpMs };
    await calm();
  }
}
