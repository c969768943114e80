import { expect } from 'chai';
import type { P75Change } from '../../src/core/field/mix';
import type { FittedVisitors, SiteField } from '../../src/engine/services/siteField';
import type { SweepOverview } from '../../src/engine/services/sweepOverview';
import { askApi } from '../fixtures/jobs';
import { startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

describe('api: field data', function () {
  this.timeout(180_000);
  let server: TestServer;
  const data = tempFolder('field-api');
  before(async () => {
    server = await startDemo(data.folder);
  });
  after(async () => {
    await server.stop();
    data.remove();
  });
  const get = async <T>(route: string): Promise<T> => {
    const { status, value } = await askApi<T>(server.url + route);
    expect(status, `${route}: ${JSON.stringify(value)}`).to.equal(200);
    return value;
  };
  const add = async (name: string, text: string) =>
    fetch(`${server.url}/api/sites/1/field`, { method: 'POST', headers: { 'x-file-name': name }, body: text });

  it('stands beside the lab, page by page, with likely reasons where they differ', async () => {
    const field = await get<SiteField>('/api/sites/1/field');
    expect(field).to.include({ device: 'phone', month: '2026-10', fittable: 8 });
    expect(field.origin?.p75.lcpMs).to.be.above(1000);
    const sale = field.pages.find((p) => p.page.endsWith('/plant-sale/'));
    expect(sale?.row).to.include({ of: 'page', visits: 3100 });
    expect(sale?.reasons[0]?.reason).to.contain('slow server');
    const desktop = await get<SiteField>('/api/sites/1/field?visitor=desktop');
    expect(desktop.device).to.equal('desktop');
    expect((await askApi(`${server.url}/api/sites/99/field`)).status).to.equal(404);
  });

  it('goes with the overview of a sweep, page by page and of the origin, and is gone with its file', async () => {
    type Overview = Pick<SweepOverview, 'pages' | 'fieldOfOrigin'>;
    const before = await get<Overview>('/api/sweeps/2/overview?device=phone');
    expect(before.pages.find((p) => p.row.page.endsWith('/plant-sale/'))?.field).to.include({
      of: 'page',
      visits: 3100,
    });
    expect(before.fieldOfOrigin).to.include({ of: 'origin' });
    const text = 'url,device,month,LCP\nhttps://www.fernhollow.example/plant-sale/,phone,2026-11,4321\n';
    expect((await add('later.csv', text)).status).to.be.oneOf([200, 201]);
    const after = await get<Overview>('/api/sweeps/2/overview?device=phone');
    const sale = after.pages.find((p) => p.row.page.endsWith('/plant-sale/'))?.field;
    expect(sale?.p75.lcpMs).to.equal(4321);
    const { files } = await get<SiteField>('/api/sites/1/field');
    const id = files.find((f) => f.name === 'later.csv')?.id;
    expect((await askApi(`${server.url}/api/sites/1/field/${id}`, 'DELETE')).status).to.be.below(300);
    expect((await get<Overview>('/api/sweeps/2/overview?device=phone')).pages).to.deep.equal(before.pages);
  });

  it('fits visitors near those who made the figures, though two pages differ for reasons of their own', async () => {
    const fit = await get<FittedVisitors>('/api/sites/1/field/fit?sweep=2&device=phone');
    // demo/field.ts: 95 ms, 3.6 Mbit/s, factor 3.1, spread 1.7
    expect(fit.mix.rttMs).to.be.within(70, 130);
    expect(fit.mix.downKbps).to.be.within(2700, 4700);
    expect(fit.spec).to.match(/^screen=400x860@2.5,touch,rtt=\d+,down=\d+,up=\d+,cpu=[\d.]+$/);
    expect((await get<SiteField>('/api/sites/1/field')).fit?.spec).to.equal(fit.spec);
    const overview = await get<{ groups: { id: string }[] }>('/api/sweeps/2/overview?device=phone');
    const groups = overview.groups.map((g) => g.id).join(',');
    const base = '/api/sites/1/field/fit?sweep=2&device=phone&groups=';
    const none = await get<P75Change>(base);
    expect(none.afterMs).to.equal(none.beforeMs);
    const all = await get<P75Change>(base + encodeURIComponent(groups));
    expect(all.beforeMs).to.equal(none.beforeMs);
    expect(all.afterMs).to.be.below(0.7 * all.beforeMs);
    expect(all.range[0]).to.be.at.most(all.afterMs);
    expect(all.range[1]).to.be.at.least(all.afterMs);
  });

  it('tells of one page, its own figures before those of its origin', async () => {
    const of = async (page: string): Promise<unknown> =>
      (await fetch(`${server.url}/api/sites/1/field/page?page=${encodeURIComponent(page)}`)).json();
    expect(await of('https://www.fernhollow.example/visit/?utm_source=x')).to.include({ of: 'page' });
    expect(await of('https://www.fernhollow.example/nowhere/')).to.include({ of: 'origin' });
    expect(await of('https://elsewhere.example/')).to.equal(null);
  });

  it('takes files, replaces one of the same name, refuses what is none', async () => {
    const row = (ms: number) => `url,device,month,LCP\nhttps://www.fernhollow.example/talks/,phone,2026-11,${ms}\n`;
    expect((await add('november.csv', row(9000))).status).to.equal(201);
    expect((await add('november.csv', row(4200))).status).to.equal(201);
    const field = await get<SiteField>('/api/sites/1/field');
    expect(field.files.map((f) => f.name)).to.deep.equal(['field.csv', 'november.csv']);
    expect(field.pages.find((p) => p.page.endsWith('/talks/'))?.row?.p75).to.deep.equal({ lcpMs: 4200 });
    expect(field.month).to.equal('2026-11');
    const bad = await add('x.csv', 'a,b\n1,2\n');
    expect(bad.status).to.equal(400);
    expect(await bad.text()).to.contain('No column is named after a metric.');
    const gone = await askApi(`${server.url}/api/sites/1/field/${field.files[1]?.id}`, 'DELETE');
    expect(gone.status).to.equal(204);
    expect((await askApi(`${server.url}/api/sites/1/field/99`, 'DELETE')).status).to.equal(404);
  });
});
