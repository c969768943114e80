import { expect } from 'chai';
import { spawn } from 'node:child_process';
import path from 'node:path';
import { Catalogue } from '../../../demo/site/catalogue';
import { openStore, projectRoot } from '../../../src/engine/store/store';
import { madeSite, type MadeSite } from '../../fixtures/site';
import { dumpSweep, fastSettings, sweepInto } from '../../fixtures/sweep';
import { tempFolder } from '../../fixtures/temp';

const KILLS = 20;
/** Sweeps that are killed side by side, each of a site of its own: starting a process is most of the work. */
const LANES = 2;
const PAGES = 250;

/** Kills the command line's sweep at moments that the site chooses by the number of requests. */
describe('a sweep that is killed', () => {
  const temp = tempFolder('crash');
  const catalogue = new Catalogue(PAGES);
  let sites: MadeSite[];
  const own = (text: string, home: string) => text.replaceAll('https://www.fernhollow.example/', home);
  const serve = () =>
    madeSite((at, home) => {
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
  before(async () => {
    sites = await Promise.all(Array.from({ length: LANES }, serve));
  });
  after(async () => {
    await Promise.all(sites.map((s) => s.close()));
    temp.remove();
  });

  /** Runs the command line until it ends, or until so many requests have come; true when it was killed. */
  const run = (site: MadeSite, data: string, resume: boolean, killAfter: number): Promise<boolean> =>
    new Promise((done, fail) => {
      const args = [
        'sweep',
        site.home,
        '--data',
        data,
        '--preset',
        'own-server',
        '--max-pages',
        '5000',
        '--no-sitemaps',
      ];
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

  /** One sweep after the other with so many kills in all; each that ends is held against the undisturbed one. */
  const lane = async (site: MadeSite, name: string, wanted: number): Promise<{ kills: number; sweeps: number }> => {
    const settings = fastSettings(site.home, { sitemaps: false, ignoreParameters: ['utm_*'] });
    const calm = await sweepInto(path.join(temp.folder, `${name}-calm`), settings);
    const expected = await dumpSweep(calm.store, calm.sweepId);
    await calm.store.destroy();
    expect(expected['pages']?.length).to.be.above(PAGES);
    // A fixed course of chance, so that a failure can be had again.
    let seed = 20261125 + name.length;
    const chance = (below: number) => {
      seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
      return 1 + (seed % below);
    };
    let kills = 0;
    let sweeps = 0;
    let begun = false;
    while (kills < wanted || begun) {
      const data = path.join(temp.folder, `${name}-killed-${sweeps}`);
      if (await run(site, data, begun, kills < wanted ? chance(110) : Infinity)) {
        kills++;
        begun = true;
        continue;
      }
      const store = await openStore(data);
      const rows = await store.selectFrom('sweeps').selectAll().execute();
      expect(rows).to.have.length(1);
      expect(rows[0]?.ended_at).to.be.a('string');
      const dump = await dumpSweep(store, rows[0]?.id ?? 0);
      for (const part of Object.keys(expected)) expect(dump[part], part).to.deep.equal(expected[part]);
      const jobs = await store.selectFrom('jobs').selectAll().execute();
      expect(jobs.map((j) => j.state)).to.deep.equal(['done']);
      await store.destroy();
      sweeps++;
      begun = false;
    }
    return { kills, sweeps };
  };

  it(`loses and doubles nothing, whenever that happens (${KILLS} times)`, async function () {
    this.timeout(240_000);
    const lanes = await Promise.all(sites.map((site, i) => lane(site, 'x'.repeat(i + 1), KILLS / LANES)));
    expect(lanes.reduce((n, l) => n + l.kills, 0)).to.equal(KILLS);
    for (const l of lanes) expect(l.sweeps).to.be.above(0);
  });
});
