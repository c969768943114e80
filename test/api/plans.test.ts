import { expect } from 'chai';
import { har, PAGE } from '../fixtures/har';
import { startServer, type TestServer } from '../fixtures/server';

/** Two days of one garden page: the hero is late on both, the http picture comes only on the second. */
const page = (body: string, day: string) => {
  const made = har(
    [
      {
        url: PAGE,
        body: `<!doctype html><html><head><script src="/head.js"></script></head><body><img src="/hero.jpg" loading="lazy">${body}</body></html>`,
      },
      { url: PAGE + 'head.js', body: 'var a;'.repeat(8000), start: 30 },
      { url: PAGE + 'hero.jpg', bytes: 300_000, start: 200 },
    ],
    { hero: { timeMs: 400, size: 9, tag: 'img', url: PAGE + 'hero.jpg' } },
  );
  return new TextEncoder().encode(JSON.stringify(made).replaceAll('2026-11-12', day));
};

interface Wrong {
  readonly error: { readonly what: string; readonly where: string; readonly next: string };
}

describe('api: plans, visitors, tasks and news', () => {
  let server: TestServer;
  let siteId = 0;
  let sweepId = 0;
  let captureId = 0;
  const call = (method: string, route: string, body?: unknown) =>
    fetch(server.url + route, {
      method,
      headers: body === undefined ? {} : { 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  const read = async <T>(method: string, route: string, body?: unknown): Promise<{ status: number; value: T }> => {
    const r = await call(method, route, body);
    return { status: r.status, value: (r.status === 204 ? undefined : await r.json()) as T };
  };
  const upload = async (bytes: Uint8Array, name: string) => {
    const r = await fetch(server.url + '/api/captures', {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream', 'x-file-name': name },
      body: bytes as never,
    });
    expect(r.status, name).to.equal(201);
    return ((await r.json()) as { captures: { id: number; siteId: number; sweepId: number }[] }).captures[0];
  };
  before(async () => {
    server = await startServer();
    await upload(page('', '2026-10-22'), 'before.har');
    const now = await upload(page('<img src="http://a.example/x.jpg">', '2026-11-12'), 'now.har');
    [siteId, sweepId, captureId] = [now?.siteId ?? 0, now?.sweepId ?? 0, now?.id ?? 0];
  });
  after(() => server.stop());

  const fix = { group: 'script-defer|x', title: 'Defer head.js', owner: 'Ivy', due: '2026-12-01', state: 'started' };

  it('saves, lists, changes and deletes plans', async () => {
    const path = `/api/sites/${siteId}/plans`;
    const made = await read<{ id: number; name: string; fixes: object[] }>('POST', path, {
      name: ' Spring ',
      visitor: 'phone-wifi',
      scope: `page:${PAGE}`,
      fixes: [fix],
    });
    expect(made.status).to.equal(201);
    expect(made.value).to.deep.include({ name: 'Spring', visitor: 'phone-wifi', scope: `page:${PAGE}`, fixes: [fix] });
    const id = made.value.id;
    expect((await read<object[]>('GET', path)).value).to.have.length(1);
    expect((await read<Wrong>('POST', path, { name: 'Spring', fixes: [fix] })).value.error.what).to.match(/already/);
    const changed = await read<{ fixes: { state: string }[] }>('PUT', `${path}/${id}`, {
      name: 'Spring',
      fixes: [{ ...fix, state: 'done' }],
    });
    expect(changed.value.fixes[0]?.state).to.equal('done');
    expect((await read('GET', `${path}/${id}`)).status).to.equal(200);
    expect((await call('DELETE', `${path}/${id}`)).status).to.equal(204);
    expect((await call('DELETE', `${path}/${id}`)).status).to.equal(404);
    expect((await call('PUT', `${path}/${id}`, { name: 'x', fixes: [] })).status).to.equal(404);
  });

  it('says what is wrong with a plan, and stores nothing of it', async () => {
    const path = `/api/sites/${siteId}/plans`;
    for (const [wrong, about] of [
      [{ name: '', fixes: [] }, /name/],
      [{ name: 'x' }, /has fixes/],
      [{ name: 'x', fixes: [{ ...fix, due: 'soon' }] }, /YYYY-MM-DD/],
      [{ name: 'x', fixes: [{ ...fix, state: 'maybe' }] }, /state is one of/],
      [{ name: 'x', fixes: [fix], visitor: 'nobody' }, /no visitor "nobody"/],
    ] as const) {
      const r = await read<Wrong>('POST', path, wrong);
      expect(r.status, JSON.stringify(wrong)).to.equal(400);
      expect(r.value.error.what).to.match(about);
    }
    expect((await read<object[]>('GET', path)).value).to.deep.equal([]);
    expect((await call('GET', '/api/sites/999/plans')).status).to.equal(404);
  });

  it('keeps visitors that users make up', async () => {
    const made = await read<{ id: number; spec: string }>('POST', '/api/visitors', {
      name: 'Train',
      spec: 'phone-busy,rtt=300',
    });
    expect(made.status).to.equal(201);
    expect(made.value.spec).to.equal('screen=400x860@2.5,touch,rtt=300,down=2000,up=800,cpu=4');
    expect((await read<object[]>('GET', '/api/visitors')).value).to.have.length(1);
    for (const name of ['Train', 'Desktop', 'phone-busy'])
      expect((await read<Wrong>('POST', '/api/visitors', { name, spec: 'desktop,rtt=5' })).value.error.what).to.match(
        /already/,
      );
    expect((await read<Wrong>('POST', '/api/visitors', { name: 'x', spec: 'rtt=soon' })).value.error.what).to.match(
      /not understood/,
    );
    const to = `/api/visitors/${made.value.id}`;
    expect((await read<{ name: string }>('PUT', to, { name: 'Slow train', spec: 'rtt=900' })).value.name).to.equal(
      'Slow train',
    );
    expect((await call('DELETE', to)).status).to.equal(204);
    expect((await call('DELETE', to)).status).to.equal(404);
  });

  it('tells what is new, gone and stayed since the sweep before', async () => {
    interface News {
      readonly against?: { readonly day: string };
      readonly news?: { readonly appeared: { check: string }[]; readonly gone: object[]; readonly stayed: number };
    }
    const { value } = await read<News>('GET', `/api/sweeps/${sweepId}/news`);
    expect(value.against?.day).to.equal('2026-10-22');
    expect(value.news?.appeared.map((c) => c.check)).to.include('mixed-markup');
    expect(value.news?.gone).to.deep.equal([]);
    expect(value.news?.stayed).to.be.above(0);
    const sweeps = (await read<{ sweeps: { id: number }[] }>('GET', `/api/sites/${siteId}`)).value.sweeps;
    const first = sweeps.at(-1)?.id ?? 0;
    expect((await read<News>('GET', `/api/sweeps/${first}/news`)).value).to.deep.equal({});
    const back = (await read<News>('GET', `/api/sweeps/${first}/news?with=${sweepId}`)).value;
    expect(back.news?.gone.length).to.be.above(0);
    expect((await call('GET', '/api/sweeps/999/news')).status).to.equal(404);
    expect((await call('GET', `/api/sweeps/${sweepId}/news?with=yesterday`)).status).to.equal(400);
  });

  it('hands the bench over as tasks and as a file with the times of the forecast', async () => {
    const plan = await read<{ groups: { id: string; title: string }[] }>(
      'GET',
      `/api/sweeps/${sweepId}/plan?minutes=999`,
    );
    expect(plan.value.groups.length).to.be.above(0);
    const { groupKey } = await import('../../src/core/plan/groupKey');
    const bench = plan.value.groups.map((g) => groupKey(g.id)).join('.');
    const saved = await read<{ id: number }>('POST', `/api/sites/${siteId}/plans`, {
      name: 'Handed over',
      fixes: [{ ...fix, group: plan.value.groups[0]?.id, title: plan.value.groups[0]?.title }],
    });
    const to = `/api/sweeps/${sweepId}/tasks?bench=${bench}&plan=${saved.value.id}`;
    const json = await read<{ tasks: { owner: string; addedMs: number }[]; head: { nowMs: number; afterMs: number } }>(
      'GET',
      to,
    );
    expect(json.value.tasks).to.have.length(plan.value.groups.length);
    expect(json.value.tasks[0]?.owner).to.equal('Ivy');
    const sum = json.value.tasks.reduce((s, t) => s + t.addedMs, 0);
    expect(json.value.head.afterMs - json.value.head.nowMs).to.be.closeTo(sum, 0.01);
    const markdown = await call('GET', `${to}&format=md`);
    expect(markdown.headers.get('content-disposition')).to.contain('.md');
    expect(await markdown.text())
      .to.contain('# Handed over')
      .and.to.contain('Owner: Ivy');
    expect((await (await call('GET', `${to}&format=csv`)).text()).split('\r\n')).to.have.length(
      plan.value.groups.length + 2,
    );
    const sheet = new Uint8Array(await (await call('GET', `${to}&format=xlsx`)).arrayBuffer());
    expect([...sheet.slice(0, 2)]).to.deep.equal([0x50, 0x4b]);
    expect((await call('GET', `${to}&format=pdf`)).status).to.equal(400);
    expect((await call('GET', `/api/sweeps/${sweepId}/tasks?plan=999`)).status).to.equal(404);

    interface Har {
      readonly log: { readonly pages: { readonly _lens: { readonly lcpMs: number } }[]; readonly entries: object[] };
    }
    const plain = await read<Har>('GET', `/api/captures/${captureId}/retimed`);
    const fixed = await read<Har>('GET', `/api/captures/${captureId}/retimed?bench=${bench}`);
    const lcp = (h: Har) => h.log.pages[0]?._lens.lcpMs ?? 0;
    expect(lcp(plain.value)).to.be.closeTo(json.value.head.nowMs, 0.01);
    expect(lcp(fixed.value)).to.be.closeTo(json.value.head.afterMs, 0.01);
    expect(fixed.value.log.entries.length).to.be.above(1);
    expect((await call('GET', '/api/captures/999/retimed')).status).to.equal(404);
  });
});
