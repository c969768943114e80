import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { DEFAULT_VISITOR, parseVisitor, VISITORS } from '../../src/core/load/visitors';
import { groupFixes } from '../../src/core/plan/staircase';
import { forecastSweep } from '../../src/core/plan/sweepForecast';
import { stampOf } from '../../src/engine/codeStamp';
import { benchPages } from '../../src/engine/services/benchPages';
import { importHar } from '../../src/engine/services/importHar';
import { keepForecasts } from '../../src/engine/services/keepForecasts';
import { pageTimes } from '../../src/engine/services/pageTimes';
import {
  forecastInThread,
  keptForecast,
  keptGains,
  makeForecast,
  sweepGroups,
} from '../../src/engine/services/sweepForecasts';
import { sweepOverview } from '../../src/engine/services/sweepOverview';
import { readKept, revisionOf, writeKept } from '../../src/engine/store/kept';
import { addMute, removeMute } from '../../src/engine/store/mutes';
import { openStore, type Store } from '../../src/engine/store/store';
import { bytesOf, har, PAGE } from '../fixtures/har';
import { tempFolder } from '../fixtures/temp';

const source = (name: string) =>
  `<!doctype html><html><head><title>${name}</title><link rel="stylesheet" href="/a.css"><script src="/kit.js"></script>
</head><body><h1>${name}</h1><img src="/${name}.jpg"></body></html>`;

describe('engine: what is worked out for a sweep once', () => {
  const temp = tempFolder('kept');
  let store: Store;
  let sweepId = 0;
  let siteId = 0;
  /** As it is once it has been stored. */
  const plain = (value: unknown) => JSON.parse(JSON.stringify(value)) as unknown;
  const add = async (name: string) => {
    const file = har([
      { url: PAGE + name, body: source(name), wait: 200 },
      { url: `${PAGE}a.css`, body: 'body { color: green } '.repeat(400), start: 250 },
      { url: `${PAGE}kit.js`, body: 'var fern = 1; '.repeat(4000), start: 250 },
    ]);
    const { captures } = await importHar(store, bytesOf(file), `${name}.har`);
    sweepId = captures[0]?.sweepId ?? 0;
    siteId = captures[0]?.siteId ?? 0;
  };
  before(async () => {
    store = await openStore(temp.folder);
    await add('fern');
    await add('moss');
  });
  after(async () => {
    await store.destroy();
    temp.remove();
  });

  it('is the forecast that the pages give, in lists without their edits', async () => {
    expect(await keptForecast(store, sweepId, DEFAULT_VISITOR)).to.equal(undefined);
    const made = await makeForecast(store, sweepId, DEFAULT_VISITOR);
    const { pages } = await benchPages(store, sweepId, 'phone');
    const own = pages.map(({ row, graph, fixes, concerns }) => ({ captureId: row.id, graph, fixes, concerns }));
    expect(plain(made)).to.deep.equal(plain(forecastSweep(own, DEFAULT_VISITOR)));
    expect(plain(await keptForecast(store, sweepId, DEFAULT_VISITOR))).to.deep.equal(plain(made));
    const groups = await sweepGroups(store, sweepId, 'phone');
    expect(groups.map((g) => g.id)).to.have.members(groupFixes(own).map((g) => g.id));
    for (const g of groups) {
      expect(g).not.to.have.property('fixes');
      expect(g).not.to.have.property('findings');
    }
    const overview = await sweepOverview(store, sweepId, 'phone');
    expect(overview.pages.map((p) => p.row.page)).to.deep.equal([`${PAGE}fern`, `${PAGE}moss`]);
    expect(overview.groups).to.deep.equal(groups);
  });

  it('is made for every built-in visitor when a job ends', async () => {
    await keepForecasts(store, sweepId);
    for (const visitor of VISITORS)
      expect((await keptForecast(store, sweepId, visitor))?.pages, visitor.name).to.have.length(2);
  });

  it('is worked out anew after a mute, its end, and a new capture; an import changes no other sweep', async () => {
    const kept = () => keptForecast(store, sweepId, DEFAULT_VISITOR);
    const mute = {
      scope: 'check',
      value: 'script-blocking',
      check: 'script-blocking',
      title: 'x',
      reason: 'y',
    } as const;
    for (const change of [
      () => addMute(store, siteId, mute),
      async () => removeMute(store, siteId, (await addMute(store, siteId, mute)).id),
      () => add('heath'),
    ]) {
      await makeForecast(store, sweepId, DEFAULT_VISITOR);
      expect(await kept()).not.to.equal(undefined);
      await change();
      expect(await kept()).to.equal(undefined);
    }
    expect((await makeForecast(store, sweepId, DEFAULT_VISITOR))?.pages).to.have.length(3);
  });

  it('never shows what was worked out of an older state, however late it is stored', async () => {
    const before = (await revisionOf(store, sweepId)) ?? 0;
    await add('sedge');
    await writeKept(store, sweepId, 'late', before, 'old');
    expect(await readKept(store, sweepId, 'late')).to.equal(undefined);
    await writeKept(store, sweepId, 'late', before + 1, 'new');
    expect(await readKept(store, sweepId, 'late')).to.equal('new');
    await writeKept(store, 9999, 'late', 0, 'of no sweep');
    expect(await revisionOf(store, 9999)).to.equal(undefined);
  });

  it('is worked out in a thread on the database that was asked, and not at all for a sweep that is not there', async () => {
    const visitor = parseVisitor('phone-busy,rtt=80');
    const made = await forecastInThread(store, sweepId, visitor);
    expect(made?.pages).to.have.length(4);
    expect(plain(await keptForecast(store, sweepId, visitor))).to.deep.equal(plain(made));
    expect(await forecastInThread(store, 9999, visitor)).to.equal(undefined);
  });

  it('is of the sweep as it is by then for all once one asks after a change; what is being made is ended', async () => {
    const visitor = parseVisitor('phone-busy,rtt=70');
    const older = forecastInThread(store, sweepId, visitor);
    // Gains are kept half-way.
    while (!(await keptGains(store, sweepId, visitor)));
    await addMute(store, siteId, { scope: 'check', value: 'html-large', check: 'html-large', title: 'x', reason: 'y' });
    const newer = await forecastInThread(store, sweepId, visitor);
    expect(plain(await keptForecast(store, sweepId, visitor))).to.deep.equal(plain(newer));
    expect(await older).to.deep.equal(newer);
  });

  it('is not begun again by those who only wait for it while the sweep changes', async () => {
    const visitor = parseVisitor('phone-busy,rtt=75');
    const older = forecastInThread(store, sweepId, visitor);
    while (!(await keptGains(store, sweepId, visitor)));
    await addMute(store, siteId, { scope: 'check', value: 'html-deep', check: 'html-deep', title: 'x', reason: 'y' });
    expect((await older)?.pages).to.have.length(4);
    expect(await keptForecast(store, sweepId, visitor)).to.equal(undefined);
  });

  it('is no more than the times of its pages where only they are asked for', async () => {
    const visitor = parseVisitor('phone-busy,rtt=90');
    const times = await pageTimes(store, sweepId, visitor);
    expect(times).to.have.length(4);
    expect(await keptForecast(store, sweepId, visitor)).to.equal(undefined);
    expect(await pageTimes(store, sweepId, visitor)).to.deep.equal(times);
    const made = await makeForecast(store, sweepId, visitor);
    expect(plain(made?.pages)).to.deep.equal(times);
    expect(await pageTimes(store, 9999, visitor)).to.deep.equal([]);
  });

  it('is not that of another state of the load model', () => {
    const folder = path.join(temp.folder, 'core');
    fs.mkdirSync(path.join(folder, 'load'), { recursive: true });
    fs.writeFileSync(path.join(folder, 'load/browser.ts'), 'export const A = 1;');
    const before = stampOf(folder);
    expect(stampOf(folder)).to.equal(before);
    fs.writeFileSync(path.join(folder, 'load/browser.ts'), 'export const A = 2;');
    expect(stampOf(folder)).not.to.equal(before);
  });

  it('stays when it was made last, also where it took the place of an older one', async () => {
    const revision = (await revisionOf(store, sweepId)) ?? 0;
    await writeKept(store, sweepId, 'made anew', revision, 'once');
    for (let i = 0; i < 119; i++) await writeKept(store, sweepId, `another ${i}`, revision, i);
    await writeKept(store, sweepId, 'made anew', revision, 'twice');
    for (let i = 0; i < 119; i++) await writeKept(store, sweepId, `a third ${i}`, revision, i);
    expect(await readKept(store, sweepId, 'made anew')).to.equal('twice');
    await writeKept(store, sweepId, 'one more', revision, true);
    expect(await readKept(store, sweepId, 'made anew')).to.equal(undefined);
  });

  it('goes once something is kept of a newer state of the sweep', async () => {
    await writeKept(store, sweepId, 'old', (await revisionOf(store, sweepId)) ?? 0, 1);
    const mute = await addMute(store, siteId, { scope: 'check', value: 'x', check: 'x', title: 'x', reason: 'x' });
    const revision = (await revisionOf(store, sweepId)) ?? 0;
    await writeKept(store, sweepId, 'new', revision, 2);
    const rows = await store.selectFrom('kept').select(['name', 'revision']).where('sweep_id', '=', sweepId).execute();
    expect(rows).to.deep.equal([{ name: 'new', revision }]);
    await removeMute(store, siteId, mute.id);
  });

  it('keeps the latest visitors that people made up, not all of them', async () => {
    for (let i = 1; i <= 150; i++) {
      const { id } = parseVisitor(`phone-busy,rtt=${100 + i}`);
      await writeKept(store, sweepId, `forecast ${id}`, (await revisionOf(store, sweepId)) ?? 0, i);
    }
    const { n } = await store
      .selectFrom('kept')
      .select((e) => e.fn.countAll<number>().as('n'))
      .where('sweep_id', '=', sweepId)
      .executeTakeFirstOrThrow();
    expect(n).to.equal(120);
  });
});
