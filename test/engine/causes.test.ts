import { expect } from 'chai';
import sharp from 'sharp';
import { Control } from '../../src/engine/crawl/control';
import { viewCapture } from '../../src/engine/services/captureView';
import { importHar } from '../../src/engine/services/importHar';
import { runExamination } from '../../src/engine/services/runExamination';
import { startExamination } from '../../src/engine/services/startJobs';
import { findingsSheet } from '../../src/engine/services/sheet';
import { crawlFactsOf } from '../../src/engine/store/crawlFacts';
import { getCapture } from '../../src/engine/store/captures';
import { listCauses, listFacets } from '../../src/engine/store/causes';
import { countCauses, countClean, listFindings } from '../../src/engine/store/findings';
import { addMute, listMutes, removeMute } from '../../src/engine/store/mutes';
import { findSite, saveSiteLimits, type SiteRow } from '../../src/engine/store/sites';
import { openStore, type Store } from '../../src/engine/store/store';
import { bytesOf, har, PAGE } from '../fixtures/har';
import { tempFolder } from '../fixtures/temp';

const page = (name: string) =>
  `<!doctype html><html><head><title>${name}</title></head><body><script src="http://a.example/w.js"></script>
<img src="http://a.example/${name}.jpg"><p>${name}</p></body></html>`;

describe('engine/store/causes, mutes and examination', () => {
  const temp = tempFolder('causes');
  let store: Store;
  let site: SiteRow;
  let sweepId = 0;
  const ids: number[] = [];
  const q = () => ({ sweepId, device: 'desktop' as const });
  before(async () => {
    store = await openStore(temp.folder);
    for (const name of ['plants/fern', 'plants/moss', 'visit/']) {
      const result = await importHar(
        store,
        bytesOf(har([{ url: PAGE + name, body: page(name), wait: 400, headers: { etag: '"1"' } }])),
        `${name}.har`,
      );
      const row = result.captures[0]!;
      ids.push(row.id);
      sweepId = row.sweepId;
      site = (await findSite(store, row.siteId)) as SiteRow;
    }
    // Links in are what a crawl finds out.
    await store
      .insertInto('pages')
      .values(
        ids.map((_, i) => ({
          sweep_id: sweepId,
          url: PAGE + ['plants/fern', 'plants/moss', 'visit/'][i],
          state: 'done' as const,
          origin: 'link' as const,
          level: 1,
          folder: i < 2 ? '/plants/' : '/visit/',
          links_in: i * 10,
          template: i < 2 ? 't1' : 't2',
        })),
      )
      .execute();
    await store
      .insertInto('templates')
      .values([
        { sweep_id: sweepId, template: 't1', name: 'Plants', pages: 2 },
        { sweep_id: sweepId, template: 't2', name: 'Visit', pages: 1 },
      ])
      .execute();
  });
  after(async () => {
    await store.destroy();
    temp.remove();
  });
  const causeOf = async (check: string) => (await listCauses(store, { ...q(), check, limit: 50 })).causes;

  it('groups what one change removes, counts its pages and adds up their reach', async () => {
    const scripts = (await causeOf('mixed-markup')).find((c) => c.harm === 'broken');
    expect(scripts).to.include({ pages: 3, findings: 3, reach: 33, targets: 1 });
    // The most linked page first.
    expect(scripts?.places.map((p) => new URL(p.page).pathname)).to.deep.equal([
      '/visit/',
      '/plants/moss',
      '/plants/fern',
    ]);
    expect(await causeOf('hsts')).to.have.length(1);
    const all = await listCauses(store, { ...q(), concern: 'mixed', limit: 1 });
    expect(all).to.include({ total: 4, findings: 6 });
    expect(all.causes).to.have.length(1);
  });

  it('narrows by folder, template, host, harm and words', async () => {
    const count = async (filter: object) =>
      (await listFindings(store, { ...q(), ...filter, limit: 1, offset: 0 })).total;
    expect(await count({ check: 'mixed-markup' })).to.equal(6);
    expect(await count({ check: 'mixed-markup', folder: '/plants/' })).to.equal(4);
    expect(await count({ check: 'mixed-markup', template: 't2' })).to.equal(2);
    expect(await count({ check: 'mixed-markup', host: 'a.example' })).to.equal(6);
    expect(await count({ check: 'mixed-markup', harm: 'broken' })).to.equal(3);
    expect(await count({ search: 'moss.jpg' })).to.equal(1);
    expect(await count({ search: '100%_' })).to.equal(0);
    const facets = await listFacets(store, { ...q(), concern: 'mixed' });
    expect(facets.templates).to.deep.equal([
      { value: 't1', name: 'Plants', causes: 3 },
      { value: 't2', name: 'Visit', causes: 2 },
    ]);
    expect(facets.folders.map((f) => f.value)).to.have.members(['/plants/', '/visit/']);
  });

  it('keeps muted ones out of lists and counts, and shows them when asked', async () => {
    const before = await countCauses(store, sweepId, 'desktop');
    const script = (await causeOf('mixed-markup')).find((c) => c.harm === 'broken')!;
    const mute = await addMute(store, site.id, {
      scope: 'cause',
      value: script.cause,
      check: script.check,
      title: script.first.title,
      reason: 'goes away with the old shop',
    });
    expect(await countCauses(store, sweepId, 'desktop')).to.include({ mixed: before.mixed! - 1 });
    const only = await listCauses(store, { ...q(), muted: 'only', limit: 10 });
    expect(only.causes.map((c) => [c.cause, c.muted])).to.deep.equal([[script.cause, true]]);
    const again = await addMute(store, site.id, { ...mute, reason: 'really' });
    expect(again).to.include({ id: mute.id, reason: 'really' });
    expect(await listMutes(store, site.id)).to.have.length(1);
    const whole = await addMute(store, site.id, {
      scope: 'check',
      value: 'mixed-markup',
      check: 'mixed-markup',
      title: 'x',
      reason: 'y',
    });
    expect(await causeOf('mixed-markup')).to.deep.equal([]);
    expect(await removeMute(store, site.id, whole.id)).to.equal(true);
    expect(await removeMute(store, site.id, mute.id)).to.equal(true);
    expect(await removeMute(store, site.id, mute.id)).to.equal(false);
    expect(await countCauses(store, sweepId, 'desktop')).to.deep.equal(before);
  });

  it('counts a page as clean although its host is set up badly', async () => {
    const result = await importHar(
      store,
      bytesOf(
        har([
          {
            url: PAGE + 'good/',
            body: '<!doctype html><title>x</title><p>x',
            headers: { etag: '"1"', 'content-encoding': 'gzip' },
          },
        ]),
      ),
      'good.har',
    );
    const id = result.captures[0]!.id;
    const own = (await listFindings(store, { ...q(), search: 'good/', limit: 20, offset: 0 })).rows;
    expect(own.map((f) => f.check)).to.include('hsts');
    expect(await countClean(store, [id, ...ids])).to.equal(1);
  });

  it('examines stored captures anew by the limits of their site, whole or not at all', async () => {
    const waits = async () => (await listFindings(store, { ...q(), check: 'server-wait', limit: 1, offset: 0 })).total;
    expect(await waits()).to.equal(0);
    const facts = await Promise.all(ids.map((id) => getCapture(store, id)));
    await saveSiteLimits(store, site.id, { 'server-wait.waitMs': 100 });
    const job = await startExamination(store, site);
    expect((await startExamination(store, site)).id, 'one that waits is enough').to.equal(job.id);
    const control = new Control();
    const seen: number[] = [];
    await runExamination(store, job.id, { control, onProgress: (p) => seen.push(p.done) });
    expect(seen.at(-1)).to.equal(4);
    expect(await waits()).to.equal(3);
    const after = await Promise.all(ids.map((id) => getCapture(store, id)));
    // What the limit does not concern stays as it was.
    const rest = (c: (typeof after)[number]) =>
      c?.findings
        .filter((f) => f.check !== 'server-wait')
        .map((f) => f.id)
        .sort();
    expect(after.map(rest)).to.deep.equal(facts.map(rest));
    expect(after[0]?.row.findings).to.equal((facts[0]?.row.findings ?? 0) + 1);
    control.stop('cancel');
    await saveSiteLimits(store, site.id, {});
    expect(await runExamination(store, job.id, { control, onProgress: () => undefined })).to.equal('cancel');
    expect(await waits()).to.equal(3);
  });

  it('tells with a page what the sweep knows of its links and sitemaps', async () => {
    const rows = await store.selectFrom('pages').select(['id', 'url']).where('sweep_id', '=', sweepId).execute();
    const fern = rows.find((r) => r.url.endsWith('fern'))!;
    const add = (url: string, values: object) =>
      store
        .insertInto('pages')
        .values({ sweep_id: sweepId, url, state: 'done', origin: 'link', level: 2, folder: '/', ...values })
        .returning('id')
        .executeTakeFirstOrThrow();
    const gone = await add(`${PAGE}gone/`, { final_status: 404, status: 404, final_url: `${PAGE}gone/` });
    await add('http://www.fernhollow.example/plants/fern', { in_sitemap: `${PAGE}sitemap.xml`, final_status: 200 });
    await store
      .insertInto('links')
      .values({
        sweep_id: sweepId,
        from_id: fern.id,
        to_id: gone.id,
        url: null,
        tag: 'a',
        attribute: 'href',
        line: 3,
        col: 1,
        rel: '',
        text: 'x',
      })
      .execute();
    expect(await crawlFactsOf(store, sweepId, `${PAGE}plants/fern`)).to.deep.equal({
      links: [{ url: `${PAGE}gone/`, status: 404, hops: 0, end: `${PAGE}gone/` }],
      sitemapHttp: { sitemap: `${PAGE}sitemap.xml`, url: 'http://www.fernhollow.example/plants/fern' },
    });
    expect(await crawlFactsOf(store, sweepId, `${PAGE}nowhere`)).to.equal(undefined);
    const job = await startExamination(store, site);
    await runExamination(store, job.id, { control: new Control(), onProgress: () => undefined });
    const found = await listFindings(store, { ...q(), check: 'link-missing', limit: 5, offset: 0 });
    expect(found.rows.map((f) => f.target)).to.deep.equal([`${PAGE}gone/`]);
  });

  it('guesses the hero of a plain file alike when it is stored and when it is looked at', async () => {
    const picture = (width: number) =>
      sharp({ create: { width, height: width / 2, channels: 3, background: '#4d7a57' } })
        .png()
        .toBuffer();
    const html = '<!doctype html><html><body><img src="/small.png"><img src="/large.png"></body></html>';
    const value = har([
      { url: `${PAGE}plain/`, body: html },
      { url: `${PAGE}small.png`, body: await picture(60), bytes: 30_000, start: 20 },
      { url: `${PAGE}large.png`, body: await picture(900), bytes: 40_000, start: 21 },
    ]);
    const { captures } = await importHar(store, bytesOf(value), 'plain.har');
    const view = await viewCapture(store, captures[0]!.id);
    expect(view?.hero).to.include({ url: `${PAGE}large.png`, seen: false });
    expect(view?.findings.find((f) => f.check === 'hero-priority')?.target).to.equal(`${PAGE}large.png`);
  });

  it('writes a workbook with one row a finding', async () => {
    const { rows } = await listFindings(store, { ...q(), limit: 100, offset: 0 });
    const bytes = await findingsSheet(rows);
    expect(Buffer.from(bytes.subarray(0, 4)).toString('latin1')).to.equal('PK\u0003\u0004');
    expect(bytes.length).to.be.above(2000);
  });
});
