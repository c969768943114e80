import { expect } from 'chai';
import type { Planted } from '../../../demo/site/catalogue';
import { PICTURE_CACHE, serveDemo, type DemoSite } from '../../../demo/site/serve';
import { getPage, type PageView } from '../../../src/engine/store/pageFacts';
import { listPages } from '../../../src/engine/store/pageList';
import { summarisePages } from '../../../src/engine/store/pageSummary';
import { listNotes } from '../../../src/engine/store/sweepNotes';
import type { Store } from '../../../src/engine/store/store';
import { fastSettings, sweepInto } from '../../fixtures/sweep';
import { tempFolder } from '../../fixtures/temp';

const HOME = 'https://www.fernhollow.example/';
const window = { sort: 'url', descending: false, offset: 0, limit: 10_000 } as const;

/** The stand-in site with its catalogue and its maze, swept once. */
describe('a sweep of the stand-in site', () => {
  const temp = tempFolder('stand-in');
  let site: DemoSite;
  let store: Store;
  let sweepId: number;
  const pages = new Map<string, number>();
  before(async function () {
    this.timeout(240_000);
    site = await serveDemo(PICTURE_CACHE, { pages: 400, traps: true });
    const settings = fastSettings(HOME, { mapHosts: site.map });
    ({ store, sweepId } = await sweepInto(temp.folder, settings, { maxAnswerMs: 2500 }));
    for (const row of (await listPages(store, sweepId, {}, window)).rows) pages.set(row.url, row.id);
  });
  after(async () => {
    await store.destroy();
    await site.close();
    temp.remove();
  });
  const view = async (url: string): Promise<PageView> => {
    const page = await getPage(store, pages.get(url) ?? 0);
    if (!page) throw new Error(`${url} was not swept`);
    return page;
  };
  const planted = (kind: Planted['kind']) => {
    const list = site.catalogue?.planted().filter((p) => p.kind === kind) ?? [];
    expect(list.length, kind).to.be.above(1);
    return list;
  };

  it('visits every page there is', async () => {
    const paths = site.catalogue?.paths() ?? [];
    expect(paths.length).to.equal(393);
    for (const path of paths) expect(pages.has(HOME.slice(0, -1) + path), path).to.equal(true);
    const { rows } = await listPages(store, sweepId, { status: ['200'] }, window);
    expect(rows.filter((r) => !r.url.includes('/maze/'))).to.have.length(400);
  });

  it('has every planted mention and canonical with its source line', async () => {
    for (const p of [...planted('mention'), ...planted('http-canonical')]) {
      const page = await view(p.page);
      const hit = page.mentionList.find((m) => m.url === p.target && m.line === p.line);
      expect(hit, `${p.kind} ${p.target} on ${p.page}:${p.line}`).to.include({ own: true });
    }
  });

  it('has every link through redirects and to missing pages with its source pages', async () => {
    for (const p of planted('redirected-link')) {
      const target = await view(p.target);
      expect(target.hopCount).to.equal(p.target.includes('twice') ? 2 : 1);
      expect(target.finalStatus).to.equal(200);
      expect(target.inLinks.map((l) => `${l.url}:${l.line}`)).to.include(`${p.page}:${p.line}`);
    }
    for (const p of planted('missing-link')) {
      const target = await view(p.target);
      expect(target.status).to.equal(404);
      expect(target.inLinks.map((l) => `${l.url}:${l.line}`)).to.include(`${p.page}:${p.line}`);
      expect((await view(p.page)).linksMissing).to.equal(1);
    }
  });

  it('has every orphan, dead end and meta refresh, and takes no other page for one', async () => {
    const flagged = async (flag: 'orphan' | 'dead-end') =>
      (await listPages(store, sweepId, { flag: [flag] }, window)).rows
        .map((r) => r.url)
        .filter((u) => !u.includes('/maze/'));
    expect(await flagged('orphan')).to.have.members(planted('orphan').map((p) => p.page));
    expect(await flagged('dead-end')).to.have.members(planted('dead-end').map((p) => p.page));
    for (const p of planted('refresh')) {
      const page = await view(p.page);
      expect([page.redirectKind, page.finalUrl]).to.deep.equal(['meta', p.target]);
    }
  });

  it('groups pages by template and names them by their path', async () => {
    const { templates } = await summarisePages(store, sweepId, {});
    const names = templates.map((t) => t.name);
    expect(names).to.include.members(['/plants/*', '/leaflets/*']);
    expect(templates.find((t) => t.name === '/plants/*')?.pages).to.equal(site.catalogue?.species);
  });

  it('comes out of the maze and says what it cut off', async () => {
    const notes = await listNotes(store, sweepId);
    const about = (kind: string) => notes.filter((n) => n.kind === kind).map((n) => n.about);
    expect(about('trap')).to.include.members([
      'session',
      'too-long',
      'endless-path',
      `variants of ${HOME}maze/filter/`,
    ]);
    expect(about('slowed')).to.deep.equal(['www.fernhollow.example']);
    expect((await view(`${HOME}maze/circle-a/`)).finalStatus).to.equal(0);
    expect((await view(`${HOME}maze/busy/`)).status).to.equal(200);
    expect((await view(`${HOME}maze/endless/`)).details?.notes.join()).to.match(/had not ended/);
    expect((await view(`${HOME}maze/bomb/`)).why).to.match(/more than 10 MB/);
    expect((await view(`${HOME}maze/broken/`)).why).to.match(/broke the connection off/);
    expect((await view(`${HOME}maze/charset/`)).details?.notes.join()).to.match(/letters are lost/);
    expect((await view(`${HOME}maze/unknown-charset/`)).details?.charset).to.equal('utf-8');
  });

  it('filters, sorts and counts so that the figures agree with the lists', async () => {
    const summary = await summarisePages(store, sweepId, {});
    expect(summary.total).to.equal(pages.size);
    for (const [part, slices] of [
      ['status', summary.statuses],
      ['depth', summary.depths],
      ['answer', summary.answers],
      ['flag', summary.flags],
      ['folder', summary.folders],
      ['template', summary.templates],
    ] as const) {
      for (const slice of slices.slice(0, 12)) {
        const { total } = await listPages(store, sweepId, { [part]: [slice.value] }, { ...window, limit: 1 });
        expect(total, `${part} ${slice.value}`).to.equal(slice.pages);
      }
    }
    const sorted = await listPages(
      store,
      sweepId,
      {},
      { sort: 'answerMs', descending: true, offset: 0, limit: 10_000 },
    );
    const times = sorted.rows.map((r) => r.answerMs);
    const known = times.filter((t) => t !== null);
    expect(known).to.deep.equal([...known].sort((a, b) => b - a));
    expect(times.slice(known.length).every((t) => t === null)).to.equal(true);
    const words = await listPages(store, sweepId, { words: '100%_' }, window);
    expect(words.total).to.equal(0);
  });
});
