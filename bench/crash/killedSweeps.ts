import { isDeepStrictEqual } from 'node:util';
import { spawn } from 'node:child_process';
import path from 'node:path';
import { Catalogue } from '../../demo/site/catalogue';
import { openStore, projectRoot } from '../../src/engine/store/store';
import { madeSite, type MadeSite } from '../../test/fixtures/site';
import { dumpSweep, fastSettings, sweepInto } from '../../test/fixtures/sweep';

const PAGES = 250;

/** What killed sweeps came to. */
export interface KilledSweeps {
  readonly kills: number;
  /** Sweeps that ended after their kills. */
  readonly sweeps: number;
  /** What differs from an undisturbed sweep; empty when nothing was lost or doubled. */
  readonly faults: readonly string[];
}

/**
 * Kills the command line's sweep so many times, at moments that the site chooses by the number of requests, resumes it
 * each time, and holds every sweep that ends against an undisturbed one.
 */
export async function killSweeps(folder: string, kills: number, name: string): Promise<KilledSweeps> {
  const catalogue = new Catalogue(PAGES);
  const own = (text: string, home: string) => text.replaceAll('https://www.fernhollow.example/', home);
  const site = await madeSite((at, home) => {
    if (at === '/') return `<!doctype html>\n<title>Home</title>\n<a href="/plants/">Plants</a>`;
    const page = catalogue.answer(at);
    return (
      page && {
        status: page.status,
        headers: { 'content-type': page.type, ...(page.location ? { location: own(page.location, home) } : {}) },
        body: own(page.body, home),
      }
    );
  });
  try {
    return await lane(site, path.join(folder, name), kills, name.length);
  } finally {
    await site.close();
  }
}

/** Runs the command line until it ends, or until so many requests have come; true when it was killed. */
function run(site: MadeSite, data: string, resume: boolean, killAfter: number): Promise<boolean> {
  return new Promise((done, fail) => {
    const args = ['sweep', site.home, '--data', data, '--preset', 'own-server', '--max-pages', '5000', '--no-sitemaps'];
    const child = spawn(
      process.execPath,
      [path.join(projectRoot(), 'bin/keen-lens.mjs'), ...args, '--captures', '0', ...(resume ? ['--resume'] : [])],
      { stdio: ['ignore', 'ignore', 'pipe'] },
    );
    let said = '';
    let killed = false;
    let requests = 0;
    child.stderr.on('data', (d: Buffer) => (said += d.toString()));
    site.onRequest = () => {
      if (++requests < killAfter || killed) return;
      killed = true;
      child.kill('SIGKILL');
    };
    child.on('exit', (code) => {
      site.onRequest = undefined;
      if (killed || code === 0) done(killed);
      else fail(new Error(said));
    });
  });
}

async function lane(site: MadeSite, folder: string, wanted: number, salt: number): Promise<KilledSweeps> {
  const settings = fastSettings(site.home, { sitemaps: false, ignoreParameters: ['utm_*'] });
  const calm = await sweepInto(`${folder}-calm`, settings);
  const expected = await dumpSweep(calm.store, calm.sweepId);
  await calm.store.destroy();
  const faults: string[] = [];
  if ((expected['pages']?.length ?? 0) <= PAGES) faults.push('the undisturbed sweep found too few pages');
  // A fixed course of chance, so that a failure can be had again.
  let seed = 20261125 + salt;
  const chance = (below: number) => {
    seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
    return 1 + (seed % below);
  };
  let kills = 0;
  let sweeps = 0;
  let begun = false;
  while (kills < wanted || begun) {
    const data = `${folder}-killed-${sweeps}`;
    if (await run(site, data, begun, kills < wanted ? chance(110) : Infinity)) {
      kills++;
      begun = true;
      continue;
    }
    faults.push(...(await faultsOf(data, expected)).map((f) => `sweep ${sweeps}: ${f}`));
    sweeps++;
    begun = false;
  }
  return { kills, sweeps, faults };
}

/** What a sweep in a data folder has lost or has twice. */
async function faultsOf(data: string, expected: Awaited<ReturnType<typeof dumpSweep>>): Promise<string[]> {
  const store = await openStore(data);
  const out: string[] = [];
  const rows = await store.selectFrom('sweeps').selectAll().execute();
  if (rows.length !== 1) out.push(`${rows.length} sweeps instead of one`);
  if (!rows[0]?.ended_at) out.push('the sweep never ended');
  const dump = await dumpSweep(store, rows[0]?.id ?? 0);
  for (const part of Object.keys(expected))
    if (!isDeepStrictEqual(dump[part], expected[part])) out.push(`${part} differ`);
  const states = (await store.selectFrom('jobs').selectAll().execute()).map((j) => j.state).join();
  if (states !== 'done') out.push(`jobs are ${states}`);
  await store.destroy();
  return out;
}
