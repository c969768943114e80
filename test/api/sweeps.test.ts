import { expect } from 'chai';
import { strFromU8, unzipSync } from 'fflate';
import type { SweepSettings } from '../../src/core/site/settings';
import type { JobRow } from '../../src/engine/store/jobs';
import type { PageView } from '../../src/engine/store/pageFacts';
import type { PageRow } from '../../src/engine/store/pageList';
import type { PageSummary } from '../../src/engine/store/pageSummary';
import { startServer, type TestServer } from '../fixtures/server';
import { linking, madeSite, type MadeSite } from '../fixtures/site';

describe('api of sweeps', () => {
  let server: TestServer;
  let site: MadeSite;
  let siteId = 0;
  let job: JobRow;
  const call = async <T>(
    method: string,
    route: string,
    body?: unknown,
  ): Promise<{ status: number; value: T; text: string; type: string }> => {
    const r = await fetch(server.url + route, {
      method,
      headers: body === undefined ? {} : { 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const text = await r.text();
    const type = r.headers.get('content-type') ?? '';
    return { status: r.status, value: (type.includes('json') && text ? JSON.parse(text) : undefined) as T, text, type };
  };
  /** Follows the event stream until the job is in a state. */
  const until = async (id: number, ...states: string[]): Promise<JobRow> => {
    const r = await fetch(`${server.url}/api/jobs/events`);
    expect(r.headers.get('content-type')).to.equal('text/event-stream');
    const reader = (r.body as ReadableStream<Uint8Array>).getReader();
    let rest = '';
    try {
      for (;;) {
        const { value, done } = await reader.read();
        if (done) throw new Error('the stream ended');
        rest += new TextDecoder().decode(value);
        const events = rest.split('\n\n');
        rest = events.pop() ?? '';
        for (const event of events) {
          const data = /^event: jobs\ndata: (.*)$/m.exec(event)?.[1];
          const found = data && (JSON.parse(data) as { jobs: JobRow[] }).jobs.find((j) => j.id === id);
          if (found && states.includes(found.state)) return found;
        }
      }
    } finally {
      await reader.cancel();
    }
  };
  const fast = { perSecond: 0, parallel: 8, allowPrivate: true, sitemaps: false, captures: { maxPages: 0 } };

  before(async () => {
    server = await startServer();
    site = await madeSite((at) => {
      if (at === '/robots.txt') return undefined;
      if (at === '/gone') return { status: 410 };
      if (at === '/moved') return { status: 301, headers: { location: '/a' } };
      if (at === '/') return linking('/a', '/b', '/gone', '/moved', 'http://growers.mossbank.example/');
      return at.length === 2 ? linking('/', '/a') : undefined;
    });
    const made = await call<{ id: number }>('POST', '/api/sites', { home: site.home });
    expect(made.status).to.equal(201);
    siteId = made.value.id;
  });
  after(async () => {
    await server.stop();
    await site.close();
  });

  it('gives a site that is there already instead of a second one', async () => {
    const again = await call<{ id: number }>('POST', '/api/sites', { home: site.home });
    expect([again.status, again.value.id]).to.deep.equal([200, siteId]);
  });

  it('keeps settings and shows no secret', async () => {
    const auth = { username: 'gardener', password: 'secret' };
    const put = await call<SweepSettings>('PUT', `/api/sites/${siteId}/settings`, {
      ...fast,
      basicAuth: auth,
      headers: [{ name: 'X-Key', value: 'secret' }],
    });
    expect(put.status).to.equal(200);
    const got = await call<SweepSettings>('GET', `/api/sites/${siteId}/settings`);
    expect(got.text).to.not.contain('secret');
    expect(got.value.basicAuth?.username).to.equal('gardener');
    // Sent back as it was shown, the secret stays.
    await call('PUT', `/api/sites/${siteId}/settings`, got.value);
  });

  it('refuses settings that cannot be followed, and says which', async () => {
    const bad = async (values: object) =>
      call<{ error: { what: string; where: string } }>('PUT', `/api/sites/${siteId}/settings`, values);
    for (const [values, where] of [
      [{ maxPages: 0 }, /maxPages/],
      [{ home: 'ftp://x.example/' }, /home/],
      [{ include: ['   '] }, /include/],
      [{ headers: [{ name: 'bad name', value: '' }] }, /headers/],
      [{ headers: [{ name: 'X', value: 'a\nb' }] }, /headers/],
      [{ followLinks: false, sitemaps: false }, /sources/],
      [{ captures: { devices: ['watch'] } }, /devices/],
    ] as const) {
      const r = await bad(values);
      expect(r.status, JSON.stringify(values)).to.equal(400);
      expect(`${r.value.error.where} ${r.value.error.what}`).to.match(where);
    }
  });

  it('sweeps, and tells of it by server-sent events', async () => {
    const started = await call<JobRow>('POST', `/api/sites/${siteId}/sweeps`, {});
    expect(started.status, started.text).to.equal(201);
    job = await until(started.value.id, 'done');
    expect(job.progress?.counts['known']).to.equal(5);
    expect(site.headers.some((h) => h['x-key'] === 'secret')).to.equal(true);
    const details = await call<{ recordings: unknown[]; notes: unknown[] }>('GET', `/api/jobs/${job.id}`);
    expect(details.value).to.deep.include({ recordings: [], notes: [] });
    const sweep = await call<{ settings: SweepSettings; pages: { done: number } }>(
      'GET',
      `/api/sweeps/${job.sweepId ?? 0}`,
    );
    expect(sweep.value.pages.done).to.equal(5);
    expect(sweep.text).to.not.contain('secret');
  });

  it('lists pages with filters, sorting and windows, and as CSV', async () => {
    const list = (query: string) =>
      call<{ total: number; rows: PageRow[] }>('GET', `/api/sweeps/${job.sweepId ?? 0}/pages?${query}`);
    const all = (await list('sort=url&descending=false')).value;
    expect(all.rows.map((r) => new URL(r.url).pathname)).to.deep.equal(['/', '/a', '/b', '/gone', '/moved']);
    expect((await list('sort=url&descending=false&offset=3&limit=1')).value.rows[0]?.url).to.equal(`${site.home}gone`);
    expect((await list('status=4xx')).value.total).to.equal(1);
    expect((await list('status=200,301&words=moved')).value.total).to.equal(1);
    expect((await list('flag=links-missing')).value.rows.map((r) => r.url)).to.deep.equal([site.home]);
    expect((await list('sort=nonsense')).status).to.equal(400);
    const csv = await list('format=csv&columns=url,status&sort=url&descending=false');
    expect(csv.type).to.match(/text\/csv/);
    expect(csv.text.split('\r\n').slice(0, 2)).to.deep.equal(['address,status', `${site.home},200`]);
    const xlsx = await fetch(`${server.url}/api/sweeps/${job.sweepId ?? 0}/pages?format=xlsx&columns=url,status`);
    const workbook = unzipSync(new Uint8Array(await xlsx.arrayBuffer()));
    const cells = Object.entries(workbook).map(([name, bytes]) => (/\.xml$/.test(name) ? strFromU8(bytes) : ''));
    expect(cells.join('')).to.contain(`${site.home}gone`);
    const summary = await call<PageSummary>('GET', `/api/sweeps/${job.sweepId ?? 0}/pages/summary?status=200`);
    expect(summary.value.total).to.equal(3);
    expect(summary.value.statuses).to.deep.include({ value: '410', pages: 1 });
  });

  it('gives one page with links in and out', async () => {
    const { value } = await call<{ rows: PageRow[] }>('GET', `/api/sweeps/${job.sweepId ?? 0}/pages?words=/gone`);
    const page = (await call<PageView>('GET', `/api/pages/${value.rows[0]?.id ?? 0}`)).value;
    expect(page.inLinks.map((l) => [l.url, l.line])).to.deep.equal([[site.home, 5]]);
    const home = (await call<PageView>('GET', `/api/pages/${page.inLinks[0]?.pageId ?? 0}`)).value;
    expect(home.outLinks).to.have.length(5);
    expect(home.outLinks.find((l) => l.pageId === null)?.url).to.equal('http://growers.mossbank.example/');
    expect(home.mentionList.filter((m) => !m.own)).to.have.length(1);
  });

  it('offers the known addresses for trying patterns on', async () => {
    const known = await call<{ addresses: string[]; total: number }>('GET', `/api/sites/${siteId}/addresses`);
    expect(known.value.total).to.equal(5);
    expect(known.value.addresses).to.include(`${site.home}gone`);
  });

  it('pauses and resumes by command, refuses what makes no sense, and answers 404', async () => {
    const refused = await call<{ error: { what: string } }>('POST', `/api/jobs/${job.id}`, { action: 'resume' });
    expect(refused.status).to.equal(400);
    expect(refused.value.error.what).to.match(/done cannot do this: resume/);
    expect((await call('POST', `/api/jobs/${job.id}`, { action: 'explode' })).status).to.equal(400);
    for (const path of [
      'jobs/999',
      'sweeps/999',
      'sweeps/999/pages',
      'sweeps/999/pages/summary',
      'pages/99999',
      'sites/999/settings',
      'sites/999/addresses',
    ])
      expect((await call('GET', `/api/${path}`)).status, path).to.equal(404);
    expect((await call('POST', '/api/sites/999/sweeps', {})).status).to.equal(404);
    const slow = await call<JobRow>('POST', `/api/sites/${siteId}/sweeps`, { perSecond: 0.5, parallel: 1 });
    expect(slow.status, slow.text).to.equal(201);
    await until(slow.value.id, 'running');
    await call('POST', `/api/jobs/${slow.value.id}`, { action: 'pause' });
    await until(slow.value.id, 'paused');
    await call('POST', `/api/jobs/${slow.value.id}`, { action: 'cancel' });
    const ended = await until(slow.value.id, 'cancelled');
    expect(ended.endedAt).to.be.a('string');
    expect((await call('DELETE', `/api/jobs/${slow.value.id}`)).status).to.equal(204);
  });

  it('refuses recordings of other sites and of sweeps that are not there', async () => {
    const post = (values: object) =>
      call<{ error: { what: string } }>('POST', `/api/sites/${siteId}/recordings`, values);
    expect(
      (await post({ sweepId: job.sweepId, urls: ['https://growers.mossbank.example/'] })).value.error.what,
    ).to.match(/another site/);
    expect((await post({ sweepId: 999, urls: [site.home] })).status).to.equal(404);
    expect((await post({ sweepId: job.sweepId, urls: [] })).status).to.equal(400);
  });
});
