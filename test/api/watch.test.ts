import { expect } from 'chai';
import sharp from 'sharp';
import type { History } from '../../src/core/watch/history';
import type { WatchAnswer } from '../../src/islands/watch/watchPath';
import type { ShareRow } from '../../src/engine/store/shares';
import { askApi } from '../fixtures/jobs';
import { startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

const SITE = '/api/sites/1';

describe('api: watch, and what leaves the tool', function () {
  this.timeout(180_000);
  let server: TestServer;
  const data = tempFolder('watch-api');
  before(async () => {
    server = await startDemo(data.folder);
  });
  after(async () => {
    await server.stop();
    data.remove();
  });
  const call = async <T>(route: string, method = 'GET', value?: unknown, status = 200): Promise<T> => {
    const answer = await askApi<T>(server.url + route, method, value);
    expect(answer.status, `${method} ${route}: ${JSON.stringify(answer.value)}`).to.equal(status);
    return answer.value;
  };
  const fault = async (route: string, method: string, value: unknown) =>
    (await call<{ error: { what: string; where: string } }>(route, method, value, 400)).error;

  it('tells of the demo what its limits came to in both sweeps', async () => {
    const { limits, notices, unread } = await call<WatchAnswer>(`${SITE}/watch`);
    const lcp = limits.find((l) => l.figure === 'lcpMs');
    expect(lcp?.results.map((r) => [r.sweepId, r.broken, r.brokenSince])).to.deep.equal([
      [2, true, 1],
      [1, true, 1],
    ]);
    expect(notices.filter((n) => n.title.startsWith('Limit broken: Hero paint')).length).to.equal(1);
    // The same as the list of certificates says.
    const { probe } = await call<{ probe: { certificates: { daysLeft: number }[] } }>(`${SITE}/entrances`);
    const certificate = limits.find((l) => l.figure === 'certificateDays')?.results[0];
    expect(certificate?.value).to.equal(Math.min(...probe.certificates.map((c) => c.daysLeft)));
    expect(unread).to.equal(notices.length);
    expect((await call<{ unread: number }>(SITE)).unread).to.equal(unread);
    await call(`/api/sites/99/watch`, 'GET', undefined, 404);
  });

  it('gives the history of the pages that all sweeps have in common, and the same as CSV', async () => {
    const { limits } = await call<WatchAnswer>(`${SITE}/watch`);
    const history = await call<History>(`${SITE}/history?figure=lcpMs`);
    const results = limits.find((l) => l.figure === 'lcpMs')?.results ?? [];
    // The year before recorded three pages: the history is of those, the limits of all.
    expect(history).to.deep.include({ common: 3 });
    expect(history.points.map((p) => [p.day.slice(0, 7), p.pages])).to.deep.include(['2025-12', 3]);
    expect(history.points.length).to.equal(13);
    const own = (await call<{ pages: { page: string }[] }>('/api/sweeps/2/overview')).pages.length;
    expect(own).to.equal(8);
    const csv = await (await fetch(`${server.url}${SITE}/history?figure=lcpMs&format=csv`)).text();
    const last = history.points.at(-1);
    expect(csv.trimEnd().split('\r\n').at(-1)).to.equal(
      `2026-11-26,${last?.value},${last?.range?.[0]},${last?.range?.[1]},3`,
    );
    const sale = encodeURIComponent('page:https://www.fernhollow.example/plant-sale/');
    const ofPage = await call<History>(`${SITE}/history?figure=lcpMs&scope=${sale}`);
    expect(Math.abs((last?.value ?? 0) / (results[0]?.value ?? 1) - 1)).to.be.below(0.2);
    expect(ofPage.common).to.equal(undefined);
    const page = await call<History>(
      `${SITE}/history?scope=${encodeURIComponent('page:https://www.fernhollow.example/glasshouse/')}`,
    );
    expect(page.points.map((p) => p.pages)).to.deep.equal([1, 1]);
    await call(`${SITE}/history?figure=shoeSize`, 'GET', undefined, 400);
  });

  it('keeps schedules, and refuses what means nothing', async () => {
    const daily = { what: 'sweep', cron: '0 3 * * *', zone: 'Europe/Berlin', quiet: { from: '22:00', to: '02:00' } };
    const { id } = await call<{ id: number }>(`${SITE}/schedules`, 'POST', daily, 201);
    expect((await call<WatchAnswer>(`${SITE}/watch`)).schedules[0]).to.deep.include({
      id,
      on: true,
      quiet: daily.quiet,
    });
    expect((await fault(`${SITE}/schedules`, 'POST', { ...daily, zone: 'Moon' })).where).to.equal('zone');
    expect((await fault(`${SITE}/schedules`, 'POST', { ...daily, what: 'dance' })).where).to.equal('what');
    await call(`${SITE}/schedules/${id}`, 'PUT', { ...daily, on: false });
    expect((await call<WatchAnswer>(`${SITE}/watch`)).schedules[0]?.nextStart).to.equal(null);
    await call(`${SITE}/schedules/${id}`, 'DELETE', undefined, 204);
    await call(`${SITE}/schedules/${id}`, 'PUT', daily, 404);
  });

  it('judges limits when they are set and changed', async () => {
    const limit = {
      figure: 'requests',
      visitor: 'phone-busy',
      bound: 1,
      scope: 'page:https://www.fernhollow.example/',
    };
    const { id } = await call<{ id: number }>(`${SITE}/watch-limits`, 'POST', limit, 201);
    const state = async () => (await call<WatchAnswer>(`${SITE}/watch`)).limits.find((l) => l.id === id)?.results[0];
    expect(await state()).to.include({ over: true, broken: false });
    await call(`${SITE}/watch-limits/${id}`, 'PUT', { ...limit, bound: 1000 });
    expect(await state()).to.include({ over: false, broken: false });
    expect((await fault(`${SITE}/watch-limits`, 'POST', { ...limit, harm: 'broken' })).where).to.equal('concern');
    await fault(`${SITE}/watch-limits`, 'POST', { ...limit, visitor: 'nobody' });
    await call(`${SITE}/watch-limits/${id}`, 'DELETE', undefined, 204);
  });

  it('never shows a secret again, and keeps it when the form comes back', async () => {
    const mail = { host: '127.0.0.1', port: 9, security: 'none', user: 'a', password: 'moss', from: 'a@b.example' };
    await call('/api/settings/mail', 'PUT', mail);
    const shown = JSON.stringify(await call('/api/settings/mail'));
    expect(shown).not.to.contain('moss');
    await call('/api/settings/mail', 'PUT', { ...mail, password: '•••' });
    expect((await fault('/api/settings/mail', 'POST', { to: 'c@d.example' })).what).to.contain(
      'refused the connection',
    );
    const report = { to: ['c@d.example'], reader: 'fixer', format: 'md' };
    expect((await fault(`${SITE}/report/mail`, 'POST', report)).what).to.contain('refused the connection');
    await call('/api/settings/mail', 'DELETE', undefined, 204);
    expect((await fault(`${SITE}/report/mail`, 'POST', report)).what).to.equal('No mail server is set.');
    const hook = { mailTo: [], monthly: false, webhook: { url: 'https://hooks.example/x' } };
    const made = await call<{ newSecret: string }>(`${SITE}/notify`, 'PUT', hook);
    expect(made.newSecret.length).to.be.above(20);
    expect(JSON.stringify(await call(`${SITE}/watch`))).not.to.contain(made.newSecret);
    await fault(`${SITE}/notify`, 'PUT', { ...hook, webhook: { url: 'file:///etc/passwd' } });
  });

  it('answers notices as an Atom feed', async () => {
    const answer = await fetch(`${server.url}${SITE}/notices.atom`);
    expect(answer.headers.get('content-type')).to.contain('application/atom+xml');
    expect(await answer.text()).to.contain('<title>Keen Lens: Fernhollow Botanic Garden</title>');
  });

  it('shares a report by a link that shows that report, until it is taken back', async () => {
    const { id, address } = await call<{ id: number; address: string }>(
      `${SITE}/shares`,
      'POST',
      { reader: 'owner', days: 7 },
      201,
    );
    const open = () => fetch(address);
    const first = await open();
    expect(first.status).to.equal(200);
    expect(first.headers.get('content-security-policy')).to.contain("sandbox; default-src 'none'");
    expect(await first.text()).to.contain('How Fernhollow Botanic Garden loads');
    const [share] = await call<ShareRow[]>(`${SITE}/shares`);
    expect(share).to.include({ id, opened: 1 });
    expect(JSON.stringify(share)).not.to.contain(address.split('/').at(-1));
    await call(`${SITE}/shares/${id}`, 'DELETE', undefined, 204);
    expect((await open()).status).to.equal(404);
    expect((await fetch(`${server.url}/shared/${'A'.repeat(32)}`)).status).to.equal(404);
    await call(`${SITE}/shares`, 'POST', { reader: 'everybody' }, 400);
  });

  it('draws a logo anew, and refuses what is none', async () => {
    const svg = Buffer.from(
      '<svg xmlns="http://www.w3.org/2000/svg" width="900" height="90"><rect width="900" height="90" fill="teal"/></svg>',
    );
    const look = { firm: 'Ivy Marsh', colour: '#0b6a66', foreword: 'Dear garden.', logo: svg.toString('base64') };
    const kept = await call<typeof look>(`${SITE}/look`, 'PUT', look);
    const meta = await sharp(Buffer.from(kept.logo, 'base64')).metadata();
    expect([meta.format, meta.width]).to.deep.equal(['png', 480]);
    const html = await (await fetch(`${server.url}${SITE}/report?reader=owner&format=html`)).text();
    expect(html).to.contain('Ivy Marsh').and.to.contain('Dear garden.').and.to.contain('Since 5 November 2026');
    expect((await fault(`${SITE}/look`, 'PUT', { ...look, logo: 'bm8=' })).where).to.equal('logo');
    await call(`${SITE}/look`, 'PUT', { ...look, colour: 'red' }, 400);
  });
});
