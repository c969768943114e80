import { expect } from 'chai';
import { sql } from 'kysely';
import fs from 'node:fs';
import path from 'node:path';
import { defaultSettings } from '../../src/core/site/settings';
import { DEFAULT_VISITOR } from '../../src/core/load/visitors';
import { viewCapture } from '../../src/engine/services/captureView';
import { importHar } from '../../src/engine/services/importHar';
import { makeForecast } from '../../src/engine/services/sweepForecasts';
import { getBody } from '../../src/engine/store/bodies';
import { capturesOfSite } from '../../src/engine/store/captures';
import { diskBySite, removeUnusedBodies, thinSite } from '../../src/engine/store/retention';
import { addSite, deleteSite } from '../../src/engine/store/sites';
import { openStore, type Store } from '../../src/engine/store/store';
import { addPastSweep } from '../../src/engine/store/sweeps';
import { runCommand } from '../fixtures/commandLine';
import { madeHar } from '../fixtures/fleet';
import { putDemo } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

const HOME = 'https://www.fernhollow.example/';

describe('engine/store/retention', () => {
  const { folder, remove } = tempFolder('retention');
  let store: Store;
  let siteId: number;
  const sweeps: number[] = [];
  before(async () => {
    store = await openStore(folder);
    siteId = (await addSite(store, 'Garden', HOME)).id;
    for (const day of ['2026-09-01', '2026-10-01', '2026-11-01']) {
      const at = { startedAt: `${day}T01:00:00.000Z`, endedAt: `${day}T02:00:00.000Z` };
      const sweepId = await addPastSweep(store, siteId, defaultSettings(HOME), at);
      sweeps.push(sweepId);
      await importHar(store, madeHar(HOME), `${day}.har`, { siteId, sweepId });
    }
  });
  after(async () => {
    await store.destroy();
    remove();
  });
  const bodies = async () => (await store.selectFrom('bodies').select('hash').execute()).length;

  it('knows which files each capture uses', async () => {
    // A document each, and a stylesheet that they share.
    expect(await bodies()).to.equal(4);
    const [disk] = await diskBySite(store, [siteId]);
    expect(disk).to.include({ siteId, captures: 3, thinned: 0 });
    expect(disk?.bodyBytes).to.be.above(0);
    expect(await removeUnusedBodies(store)).to.equal(0);
  });

  it('lets go the files of older sweeps, and keeps what was found out', async () => {
    const before = await makeForecast(store, sweeps[0] ?? 0, DEFAULT_VISITOR);
    expect(await thinSite(store, siteId, 2)).to.equal(1);
    expect(await thinSite(store, siteId, 2)).to.equal(0);
    expect(await bodies()).to.equal(3);
    const [old] = await store
      .selectFrom('captures')
      .select('id')
      .where('sweep_id', '=', sweeps[0] ?? 0)
      .execute();
    const view = await viewCapture(store, old?.id ?? 0);
    expect(view?.notes[0]).to.contain('Its files are no longer kept');
    expect(view?.loads).to.have.length(2);
    expect(await makeForecast(store, sweeps[0] ?? 0, DEFAULT_VISITOR)).to.deep.equal(
      JSON.parse(JSON.stringify(before)),
    );
    expect(await capturesOfSite(store, siteId)).to.not.include(old?.id);
    expect((await diskBySite(store, [siteId]))[0]).to.include({ captures: 3, thinned: 1 });
  });

  it('keeps at least the last sweep whole', async () => {
    expect(await thinSite(store, siteId, 0)).to.equal(1);
    const [last] = await store
      .selectFrom('captures')
      .select('capture')
      .where('sweep_id', '=', sweeps[2] ?? 0)
      .execute();
    expect(last).to.not.equal(undefined);
    expect(await bodies()).to.equal(2);
  });

  it('finds files again after the database was written anew', async () => {
    const hashes = (await store.selectFrom('bodies').select('hash').execute()).map((b) => b.hash);
    await sql`vacuum`.execute(store);
    expect(await removeUnusedBodies(store)).to.equal(0);
    for (const hash of hashes) expect(await getBody(store, hash)).to.not.equal(undefined);
  });

  it('deletes with a site what no other uses', async () => {
    const other = await addSite(store, 'Other', 'https://other.example/');
    await importHar(store, madeHar('https://other.example/'), 'other.har', { siteId: other.id });
    const all = await bodies();
    await deleteSite(store, siteId);
    // The document of the other; its stylesheet has the same bytes.
    expect(await bodies()).to.equal(all - 1);
    await deleteSite(store, other.id);
    expect(await bodies()).to.equal(0);
  });

  it('is done by command, which says what each site takes', async () => {
    const demo = tempFolder('compact');
    await putDemo(demo.folder);
    const before = fs.statSync(path.join(demo.folder, 'keen-lens.db')).size;
    const { out, code } = await runCommand('compact', '--keep', '1', '--data', demo.folder, '--json');
    expect(code).to.equal(0);
    const said = JSON.parse(out) as {
      before: number;
      after: number;
      thinned: number;
      sites: { name: string; thinned: number; bodyBytes: number }[];
    };
    expect(said.thinned).to.equal(51);
    expect(said.sites[0]).to.include({ name: 'Fernhollow Botanic Garden', thinned: 51 });
    expect(said.after).to.be.below(before);
    demo.remove();
  });
});
