import { expect } from 'chai';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { FILE_GROUPS } from '../../src/core/pictures/fileQuery';
import type { BestGains } from '../../src/core/plan/bestGains';
import type { PageStory } from '../../src/core/plan/story';
import type { GroupGains, SweepForecast } from '../../src/core/plan/sweepForecast';
import type { ShownComparison } from '../../src/core/pictures/compare';
import type { MixedPicture } from '../../src/core/pictures/mixed';
import type { HeroPictures, LoadPictures, TemplateChains } from '../../src/engine/services/loadPictures';
import type { VersionsOfPicture } from '../../src/engine/services/pictureVersions';
import type { CausesAnswer } from '../../src/islands/concern/causes';
import type { FileGroupsAnswer, FilesAnswer } from '../../src/engine/services/filesLists';
import { askApi } from '../fixtures/jobs';
import { startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

const HERO = 'https://media.fernhollow.example/p/glasshouse-dawn.jpg';

describe('api: pictures of the concerns', function () {
  this.timeout(180_000);
  let server: TestServer;
  const data = tempFolder('pictures');
  const get = async <T>(route: string): Promise<T> => {
    const { status, value } = await askApi<T>(server.url + route);
    expect(status, route).to.equal(200);
    return value;
  };
  const text = async (route: string) => (await fetch(server.url + route)).text();
  before(async () => {
    server = await startDemo(data.folder);
  });
  after(async () => {
    await server.stop();
    data.remove();
  });

  it('tell of every recorded page how its hero fares and what its first paint waits for', async () => {
    const forecast = await get<{ pages: { captureId: number; nowMs: number; nowFcpMs: number }[] }>(
      '/api/sweeps/2/forecast',
    );
    const { pages } = await get<LoadPictures>('/api/sweeps/2/pictures');
    expect(pages.map((p) => p.captureId)).to.have.members(forecast.pages.map((p) => p.captureId));
    for (const p of pages) {
      const known = forecast.pages.find((f) => f.captureId === p.captureId);
      expect(p.hero.lcpMs).to.be.closeTo(known?.nowMs ?? 0, 0.01);
      expect(p.firstPaint.fcpMs).to.be.closeTo(known?.nowFcpMs ?? 0, 0.01);
      expect(p.hero.ahead.requests).to.equal(Math.max(0, p.hero.place - 1));
      expect(p.firstPaint.chain.at(-1)?.toMs).to.be.closeTo(p.firstPaint.fcpMs, 0.01);
    }
    const desktop = await get<LoadPictures>('/api/sweeps/2/pictures?visitor=desktop');
    expect(desktop.device).to.equal('desktop');
    const { chains } = await get<TemplateChains>('/api/sweeps/2/pictures?part=chains');
    expect(chains.reduce((n, c) => n + 1 + c.like, 0)).to.equal(pages.length);
    const latest = [...pages].sort((a, b) => b.firstPaint.fcpMs - a.firstPaint.fcpMs)[0];
    expect(chains[0]).to.deep.include({ captureId: latest?.captureId, firstPaint: latest?.firstPaint });
    const heroes = await get<HeroPictures>('/api/sweeps/2/pictures?part=heroes');
    expect(heroes.pages).to.deep.equal(pages.map(({ firstPaint: _, ...hero }) => hero));
    expect((await askApi(`${server.url}/api/sweeps/99/pictures`)).status).to.equal(404);
    expect((await askApi(`${server.url}/api/sweeps/2/pictures?visitor=nobody`)).status).to.equal(400);
  });

  it('tell what each fix wins on each page, and how one page loads', async () => {
    const gains = await get<GroupGains[]>('/api/sweeps/2/gains');
    const forecast = await get<SweepForecast>('/api/sweeps/2/forecast');
    const { groups } = await get<{ groups: { id: string; pages: number }[] }>('/api/sweeps/2/overview');
    expect(gains.map((g) => g.group)).to.have.members(groups.map((g) => g.id));
    for (const g of gains) expect(g.pages).to.have.length(groups.find(({ id }) => id === g.group)?.pages ?? 0);
    for (const { group, gains: own, aloneMs } of forecast.staircase.stairs) {
      expect(own).to.deep.equal(gains.find((g) => g.group === group.id)?.pages);
      const mean = own.reduce((n, [, ms]) => n + ms, 0) / forecast.pages.length;
      expect(mean).to.be.closeTo(aloneMs, 1);
    }
    const { causes, fixes } = await get<CausesAnswer>('/api/sweeps/2/causes?concern=hero');
    expect(causes.flatMap((c) => c.groups)).not.to.be.empty;
    expect(fixes.map((f) => f.id)).to.have.members([...new Set(causes.flatMap((c) => c.groups.slice(0, 6)))]);
    const best = await get<BestGains>('/api/sweeps/2/gains?best=2');
    const ofPage = (captureId: number) =>
      gains.flatMap((g) => g.pages.flatMap(([at, ms]) => (at === captureId && ms >= 20 ? [ms] : [])));
    for (const [captureId, own] of best.pages) {
      const most = ofPage(captureId).sort((a, b) => b - a);
      expect(own.map(([, ms]) => ms)).to.deep.equal(most.slice(0, 2));
    }
    expect(best.pages).to.have.length(forecast.pages.filter((p) => ofPage(p.captureId).length > 0).length);
    expect((await askApi(`${server.url}/api/sweeps/2/gains?best=0`)).status).to.equal(400);
    for (const id of causes.flatMap((c) => c.groups)) expect(groups.map((g) => g.id)).to.include(id);
    const some = await get<CausesAnswer>('/api/sweeps/2/causes?concern=hero&shown=3');
    expect(some.causes).to.deep.equal(causes.slice(0, 3));
    expect(some).to.include({ listed: causes.length, total: causes.length, rated: true });
    const nobody = await get<CausesAnswer>('/api/sweeps/2/causes?concern=hero&visitor=phone-busy,rtt=222');
    expect(nobody.rated).to.equal(false);
    const [page] = forecast.pages;
    const story = await get<PageStory>(`/api/captures/${page?.captureId}/story`);
    expect(story.now.milestones.lcpMs).to.be.closeTo(page?.nowMs ?? 0, 0.01);
    const one = await get<{ pages: { row: { id: number } }[] }>(`/api/sweeps/2/bench?capture=${page?.captureId}`);
    expect(one.pages.map((p) => p.row.id)).to.deep.equal([page?.captureId]);
    expect((await askApi(`${server.url}/api/sweeps/99/gains`)).status).to.equal(404);
    expect((await askApi(`${server.url}/api/captures/9999/story`)).status).to.equal(404);
  });

  it('are sent as wide as a list draws them', async () => {
    const { pages } = await get<{ pages: { row: { screenshotHash: string } }[] }>('/api/sweeps/2/overview');
    const address = `${server.url}/api/bodies/${pages[0]?.row.screenshotHash}`;
    const whole = Buffer.from(await (await fetch(address)).arrayBuffer());
    const response = await fetch(`${address}?width=240`);
    expect(response.headers.get('content-type')).to.equal('image/webp');
    expect(response.headers.get('content-security-policy')).to.match(/^sandbox/);
    const small = Buffer.from(await response.arrayBuffer());
    expect(await sharp(small).metadata()).to.include({ format: 'webp', width: 240 });
    expect(small.length).to.be.below(whole.length);
    expect(Buffer.from(await (await fetch(`${address}?width=4000`)).arrayBuffer()).equals(whole)).to.equal(true);
    expect((await askApi(`${address}?width=1`)).status).to.equal(400);
  });

  it('are answered from memory only until something changes', async () => {
    const causes = () => get<CausesAnswer>('/api/sweeps/2/causes?concern=blocking');
    const before = await causes();
    expect(await causes()).to.deep.equal(before);
    const [first] = before.causes;
    const mute = { scope: 'cause', value: first?.cause, check: first?.check, title: first?.first.title, reason: 'x' };
    const { status, value } = await askApi<{ id: number }>(`${server.url}/api/sites/1/mutes`, 'POST', mute);
    expect(status).to.equal(201);
    expect((await causes()).total).to.equal(before.total - 1);
    await askApi(`${server.url}/api/sites/1/mutes/${value.id}`, 'DELETE');
    expect((await causes()).total).to.equal(before.total);
  });

  it('are the same for those who ask at once, files and errors too', async () => {
    const at = (path: string) => Promise.all([1, 2, 3, 4].map(() => fetch(server.url + path)));
    const texts = (answers: readonly Response[]) => Promise.all(answers.map((a) => a.text()));
    const [first, ...others] = await texts(await at('/api/sweeps/2/files?limit=7&sort=saved'));
    expect((JSON.parse(first ?? '') as FilesAnswer).rows).to.have.length(7);
    for (const other of others) expect(other).to.equal(first);
    const sheets = await texts(await at('/api/sweeps/2/files?limit=7&format=csv'));
    for (const sheet of sheets) expect(sheet).to.equal(sheets[0]).and.to.match(/^\S+,/);
    const wrong = await at('/api/sweeps/2/files?sort=odd&limit=7');
    expect(wrong.map((a) => a.status)).to.deep.equal([400, 400, 400, 400]);
  });

  it('count the same bytes whichever way files are put together, and export all that fit', async () => {
    const all = await get<FilesAnswer>('/api/sweeps/2/files?limit=1000');
    expect(all.rows).to.have.length(all.total.files);
    for (const by of FILE_GROUPS) {
      const { groups } = await get<FileGroupsAnswer>(`/api/sweeps/2/files?by=${by}`);
      expect(
        groups.reduce((n, g) => n + g.delivered, 0),
        by,
      ).to.equal(all.total.delivered);
      const [first] = groups;
      const key = encodeURIComponent(first?.key ?? '');
      const narrowed = await get<FilesAnswer>(`/api/sweeps/2/files?${by}=${key}`);
      expect(narrowed.total, by).to.include({
        files: first?.files,
        delivered: first?.delivered,
        needed: first?.needed,
      });
    }
    const heavy = await get<FilesAnswer>('/api/sweeps/2/files?heavy=true&sort=saved&limit=2');
    expect(heavy.rows).to.have.length(2);
    const [a, b] = heavy.rows;
    expect((a?.delivered ?? 0) - (a?.needed ?? 0)).to.be.at.least((b?.delivered ?? 0) - (b?.needed ?? 0));
    const csv = await text('/api/sweeps/2/files?heavy=true&format=csv');
    expect(csv.trim().split('\r\n')).to.have.length(heavy.total.files + 1);
    const xlsx = await fetch(`${server.url}/api/sweeps/2/files?format=xlsx`);
    expect(Buffer.from(await xlsx.arrayBuffer()).toString('latin1', 0, 2)).to.equal('PK');
    const hero = await get<FilesAnswer>(`/api/sweeps/2/files?file=${encodeURIComponent(HERO)}`);
    expect(hero.rows[0]).to.include({ kind: 'image', thirdParty: false });
    expect(hero.rows[0]?.drawn).to.deep.equal(['400 × 240']);
    for (const bad of ['sort=odd', 'by=odd', 'limit=0', 'cache=odd'])
      expect((await askApi(`${server.url}/api/sweeps/2/files?${bad}`)).status, bad).to.equal(400);
    expect((await askApi(`${server.url}/api/sweeps/99/files`)).status).to.equal(404);
  });

  it('really re-encode a picture at its drawn sizes, and hand it out with a list and the markup', async () => {
    const path = `/api/sweeps/2/versions?url=${encodeURIComponent(HERO)}`;
    const found = await get<VersionsOfPicture>(path);
    expect(found.drawn.map((d) => d.device)).to.deep.equal(['phone', 'desktop']);
    expect(found.versions.map((v) => v.format)).to.include.members(['avif', 'webp']);
    for (const v of found.versions) {
      expect(v.bytes).to.be.below(found.bytes);
      expect(v.width).to.be.at.most(found.width);
    }
    const [version] = found.versions;
    const picture = await fetch(`${server.url}${path}&format=${version?.format}&width=${version?.width}`);
    expect(picture.headers.get('content-type')).to.equal(`image/${version?.format}`);
    expect(picture.headers.get('content-security-policy')).to.contain('sandbox');
    const meta = await sharp(Buffer.from(await picture.arrayBuffer())).metadata();
    expect([meta.width, meta.height]).to.deep.equal([version?.width, version?.height]);
    const zip = unzipSync(new Uint8Array(await (await fetch(`${server.url}${path}&format=zip`)).arrayBuffer()));
    expect(Object.keys(zip)).to.have.length(found.versions.length + 2);
    expect(new TextDecoder().decode(zip['markup.html'])).to.equal(`${found.markup}\n`);
    for (const [route, status] of [
      ['/api/sweeps/2/versions', 400],
      ['/api/sweeps/2/versions?url=https://www.fernhollow.example/js/kit.js', 404],
      [`${path}&format=webp&width=1`, 404],
      ['/api/sweeps/99/versions?url=x', 404],
    ] as const)
      expect((await askApi(server.url + route)).status, route).to.equal(status);
  });

  it('come all at once, in folders by host and path, with a list and the markup', async () => {
    const answer = await fetch(`${server.url}/api/sweeps/2/versions/all?most=2`);
    expect(answer.headers.get('content-disposition')).to.contain('pictures-2026-11-26.zip');
    const zip = unzipSync(new Uint8Array(await answer.arrayBuffer()));
    const list = new TextDecoder().decode(zip['list.csv']).trim().split('\r\n').slice(1);
    const names = Object.keys(zip).filter((n) => !['list.csv', 'markup.html'].includes(n));
    expect(list.map((l) => l.split(',')[0])).to.have.members(names);
    const hero = names.find((n) => n.startsWith('media.fernhollow.example/p/glasshouse-dawn-'));
    expect((await sharp(zip[hero ?? '']).metadata()).width).to.be.above(100);
    expect(new TextDecoder().decode(zip['markup.html'])).to.contain(`<!-- ${HERO} -->`);
    expect((await askApi(`${server.url}/api/sweeps/99/versions/all`)).status).to.equal(404);
    expect((await askApi(`${server.url}/api/sweeps/2/versions/all?most=0`)).status).to.equal(400);
  });

  it('lay mixed content out by page and host', async () => {
    const found = await get<MixedPicture>('/api/sweeps/2/mixed');
    const items = found.pages.flatMap((p) => p.cells.flatMap((c) => c.items));
    const findings = await get<{ total: number }>('/api/sweeps/2/findings?concern=mixed&device=phone');
    expect(items).to.have.length(findings.total);
    expect(found.pages[0]?.cells.some((c) => c.meets === 'blocked')).to.equal(true);
    expect(items.find((i) => i.url.endsWith('/lanes.js'))).to.include({ meets: 'blocked', written: 'markup' });
    expect(items.find((i) => i.url.endsWith('/leaf-8.jpg'))).to.include({ meets: 'upgraded', written: 'style' });
    expect((await askApi(`${server.url}/api/sweeps/99/mixed`)).status).to.equal(404);
  });

  it('hold two sweeps against each other, in all parts', async () => {
    const found = await get<ShownComparison>('/api/sweeps/2/compare');
    expect(found).to.deep.include({ then: { id: 1, day: '2026-11-05' }, device: 'phone' });
    const news = await get<{ news: { appeared: unknown[]; gone: unknown[]; stayed: number } }>('/api/sweeps/2/news');
    expect(found.news.appeared).to.have.length(news.news.appeared.length);
    expect(found.stayed).to.have.length(news.news.stayed);
    for (const { pages } of found.stayed) expect(pages).to.be.within(1, 8);
    expect(found.pages.filter((p) => p.then && p.now)).to.have.length(8);
    const forecast = await get<{ now: { lcpMs: number } }>('/api/sweeps/2/forecast');
    const mean = found.pages.reduce((n, p) => n + (p.now?.lcpMs ?? 0), 0) / found.pages.length;
    expect(mean).to.be.closeTo(forecast.now.lcpMs, 1);
    const csv = await text('/api/sweeps/2/compare?format=csv&part=findings');
    expect(csv.trim().split('\r\n')).to.have.length(
      1 +
        found.news.appeared.length +
        found.news.gone.length +
        found.news.cameBack.length +
        found.stayed.length +
        found.news.notLookedAt.length,
    );
    const xlsx = await fetch(`${server.url}/api/sweeps/2/compare?format=xlsx`);
    expect(Buffer.from(await xlsx.arrayBuffer()).toString('latin1', 0, 2)).to.equal('PK');
    // The first of the year before has none to be held against.
    const first = (await get<{ sweeps: { id: number; day: string }[] }>('/api/sites/1')).sweeps.at(-1);
    expect(first?.day).to.equal('2025-12-04');
    expect(await text(`/api/sweeps/${first?.id}/compare`)).to.equal('null');
    expect((await askApi(`${server.url}/api/sweeps/${first?.id}/compare?format=csv`)).status).to.equal(404);
    expect((await askApi(`${server.url}/api/sweeps/2/compare?part=odd`)).status).to.equal(400);
  });
});
