import { expect } from 'chai';
import fs from 'node:fs';
import http from 'node:http';
import path from 'node:path';
import { projectRoot } from '../../src/engine/store/store';
import { bytesOf, har, PAGE } from '../fixtures/har';
import { startServer, type TestServer } from '../fixtures/server';

const html =
  '<!doctype html><html><head><script src="/a.js"></script></head><body><h1>x</h1><img src="http://a.example/x.jpg"></body></html>';
const svg = '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>';

interface Answer {
  readonly status: number;
  readonly json: Record<string, never> & { error?: { what: string; where: string; next: string } };
  readonly headers: Headers;
  readonly text: string;
}

describe('api', () => {
  let server: TestServer;
  let captureId = 0;
  let sweepId = 0;
  let siteId = 0;
  const call = async (
    method: string,
    route: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer> => {
    const raw = body instanceof Uint8Array;
    const r = await fetch(server.url + route, {
      method,
      headers: {
        ...(raw ? { 'content-type': 'application/octet-stream' } : body ? { 'content-type': 'application/json' } : {}),
        ...headers,
      },
      body: raw ? (body as never) : body === undefined ? undefined : JSON.stringify(body),
    });
    const text = await r.text();
    let json: unknown = {};
    try {
      json = JSON.parse(text);
    } catch {
      // CSV, pictures and empty answers are no JSON.
    }
    return { status: r.status, json: json as Answer['json'], headers: r.headers, text };
  };
  before(async () => {
    server = await startServer();
    const file = bytesOf(
      har([
        { url: PAGE, body: html },
        { url: PAGE + 'a.js', body: 'var a'.repeat(2000), start: 30 },
        { url: PAGE + 'i.svg', body: svg, start: 40 },
      ]),
    );
    const r = await call('POST', '/api/captures', file, { 'x-file-name': 'garden.har' });
    expect(r.status, r.text).to.equal(201);
    const row = (r.json as unknown as { captures: { id: number; sweepId: number; siteId: number }[] }).captures[0];
    captureId = row?.id ?? 0;
    sweepId = row?.sweepId ?? 0;
    siteId = row?.siteId ?? 0;
  });
  after(() => server.stop());

  it('lists causes with facets, and refuses filters that do not exist', async () => {
    const r = await call('GET', `/api/sweeps/${sweepId}/causes?concern=mixed`);
    const answer = r.json as unknown as {
      total: number;
      muted: number;
      causes: { check: string }[];
      facets: { harms: object[] };
    };
    expect(answer).to.include({ total: 1, muted: 0 });
    expect(answer.causes[0]?.check).to.equal('mixed-markup');
    expect(answer.facets.harms).to.deep.equal([{ value: 'exposed', name: 'exposed', causes: 1 }]);
    expect((await call('GET', `/api/sweeps/${sweepId}/causes?harm=terrible`)).status).to.equal(400);
    expect((await call('GET', '/api/sweeps/999/causes')).status).to.equal(404);
  });

  it('mutes with a reason only', async () => {
    const mute = { scope: 'check', value: 'mixed-markup', check: 'mixed-markup', title: 'x' };
    const bare = await call('POST', `/api/sites/${siteId}/mutes`, mute);
    expect(bare.status).to.equal(400);
    expect(bare.json.error?.what).to.match(/why/);
    const made = await call('POST', `/api/sites/${siteId}/mutes`, { ...mute, reason: 'known' });
    expect(made.status).to.equal(201);
    const id = (made.json as unknown as { id: number }).id;
    const quiet = await call('GET', `/api/sweeps/${sweepId}/findings?concern=mixed`);
    expect(quiet.json as unknown).to.include({ total: 0 });
    expect((await call('DELETE', `/api/sites/${siteId}/mutes/${id}`)).status).to.equal(204);
    expect((await call('DELETE', `/api/sites/${siteId}/mutes/${id}`)).status).to.equal(404);
    expect((await call('GET', `/api/sites/${siteId}/mutes`)).text).to.equal('[]');
  });

  it('takes limits that checks have, and examines by them', async () => {
    const put = (value: unknown) => call('PUT', `/api/sites/${siteId}/limits`, value);
    expect((await put({ 'hero-late.place': 12 })).json as unknown).to.deep.include({
      limits: { 'hero-late.place': 12 },
    });
    expect((await put({ 'hero-late.nothing': 1 })).json.error?.what).to.match(/no limit/);
    expect((await put({ 'hero-late.place': -1 })).status).to.equal(400);
    expect((await put({ 'hero-late.place': 'many' })).status).to.equal(400);
    expect((await put([])).status).to.equal(400);
    // A default is nothing to remember.
    expect((await put({ 'hero-late.place': 10 })).json as unknown).to.deep.include({ limits: {} });
    expect((await call('GET', '/api/sites/999/limits')).status).to.equal(404);
  });

  it('gives findings as a workbook', async () => {
    const r = await fetch(`${server.url}/api/sweeps/${sweepId}/findings?format=xlsx`);
    expect(r.headers.get('content-disposition')).to.match(/findings-.*\.xlsx/);
    expect(
      Buffer.from(await r.arrayBuffer())
        .subarray(0, 2)
        .toString(),
    ).to.equal('PK');
  });

  it('imports a file once', async () => {
    const r = await call('POST', '/api/captures', bytesOf(har([{ url: PAGE + 'two/', body: html }])));
    expect(r.status).to.equal(201);
    const again = await call('POST', '/api/captures', bytesOf(har([{ url: PAGE + 'two/', body: html }])));
    expect([again.status, again.json.alreadyThere]).to.deep.equal([200, true]);
  });

  it('takes shipped captures, gzipped as they are', async () => {
    const r = await call(
      'POST',
      '/api/captures',
      fs.readFileSync(path.join(projectRoot(), 'demo/captures/talks-phone.har.gz')),
    );
    expect(r.status, r.text).to.equal(201);
  });

  it('says what is wrong with a file, with its JSON path, and stores nothing of it', async () => {
    const before = (await call('GET', `/api/sites/${siteId}`)).text;
    for (const [bytes, what] of [
      [new Uint8Array([0x7b]), /Not valid JSON/],
      [bytesOf({ log: { entries: [{ request: {} }] } }), /startedDateTime/],
      [new Uint8Array([0x89, 0x50, 0x4e, 0x47]), /This is a picture/],
      [new Uint8Array([0x1f, 0x8b, 8, 0, 1]), /cannot be unpacked/],
    ] as const) {
      const r = await call('POST', '/api/captures', bytes, { 'x-file-name': encodeURIComponent('bad file.har') });
      expect(r.status).to.equal(400);
      expect(r.json.error?.what).to.match(what);
      expect(r.json.error?.next).not.to.equal('');
    }
    expect((await call('POST', '/api/captures', bytesOf({ log: { entries: 3 } }))).json.error?.where).to.equal(
      '$.log.entries',
    );
    expect((await call('GET', `/api/sites/${siteId}`)).text).to.equal(before);
  });

  it('lists sites with figures for a visitor', async () => {
    const r = await call('GET', '/api/sites?visitor=desktop');
    const sites = (r.json as unknown as { sites: { name: string; pages: number; heroMs: number }[] }).sites;
    expect(sites[0]).to.include({ name: 'fernhollow.example' });
    expect(sites[0]?.heroMs).to.be.above(0);
    expect((await call('GET', '/api/sites?visitor=tablet')).status).to.equal(400);
  });

  it('adds, renames and deletes a site', async () => {
    const made = await call('POST', '/api/sites', { home: 'www.mossbank.example' });
    expect([made.status, made.json.home, made.json.name]).to.deep.equal([
      201,
      'https://www.mossbank.example/',
      'mossbank.example',
    ]);
    const route = `/api/sites/${String(made.json.id)}`;
    expect((await call('PATCH', route, { name: 'Mossbank Growers' })).json.name).to.equal('Mossbank Growers');
    expect((await call('PATCH', route, { name: ' ' })).status).to.equal(400);
    expect((await call('DELETE', route)).status).to.equal(204);
    expect((await call('DELETE', route)).status).to.equal(404);
    expect((await call('POST', '/api/sites', {})).json.error?.what).to.match(/home address/);
    expect((await call('POST', '/api/sites', { home: 'not a host' })).status).to.equal(400);
  });

  it('gives a capture with findings, fixes, source and trust', async () => {
    const r = await call('GET', `/api/captures/${captureId}`);
    const view = r.json as unknown as {
      source: string;
      findings: unknown[];
      fixes: { changes: unknown[] }[];
      trust: object;
      loads: object[];
    };
    expect(view.source).to.equal(html);
    expect(view.findings).to.have.length.above(1);
    expect(view.loads).to.have.length(3);
    expect(view.trust).to.have.property('reenactedLcpMs');
    for (const id of ['999', 'x', '-1', '1.5']) expect((await call('GET', `/api/captures/${id}`)).status).to.equal(404);
  });

  it('plans a sweep for an effort', async () => {
    const sweep = (await call('GET', `/api/captures/${captureId}`)).json as unknown as { row: { sweepId: number } };
    const plan = async (q: string) => call('GET', `/api/sweeps/${sweep.row.sweepId}/plan?${q}`);
    const r = (await plan('visitor=phone-busy&minutes=60')).json as unknown as {
      effort: number;
      nowMs: number;
      afterMs: number;
      groups: { effort: number }[];
    };
    expect(r.effort).to.be.at.most(60);
    expect(r.afterMs).to.be.at.most(r.nowMs);
    expect(r.groups.reduce((sum, g) => sum + g.effort, 0)).to.equal(r.effort);
    expect((await plan('minutes=-5')).status).to.equal(400);
    expect((await plan('visitor=nobody')).status).to.equal(400);
    expect((await call('GET', '/api/sweeps/9999/plan')).status).to.equal(404);
  });

  it('forecasts one combined figure, and each alone', async () => {
    const r = await call('POST', `/api/captures/${captureId}/forecast`, {
      visitor: 'phone-busy',
      fixes: [
        { kind: 'script-defer', target: '*' },
        { kind: 'text-compress', target: '*' },
      ],
      each: true,
    });
    const a = r.json as unknown as { before: { fcpMs: number }; after: { fcpMs: number }; each: unknown[] };
    expect(r.status, r.text).to.equal(200);
    expect(a.after.fcpMs).to.be.below(a.before.fcpMs);
    expect(a.each).to.have.length.above(1);
    expect(
      (await call('POST', `/api/captures/${captureId}/forecast`, { fixes: [{ kind: 'magic', target: '*' }] })).status,
    ).to.equal(400);
    expect(
      (await call('POST', `/api/captures/${captureId}/forecast`, { fixes: [{ kind: 'script-defer' }] })).json.error
        ?.where,
    ).to.match(/target/);
    expect((await call('POST', '/api/captures/999/forecast', {})).status).to.equal(404);
  });

  it('pages findings and exports them', async () => {
    const base = `/api/sweeps/${sweepId}/findings?device=desktop`;
    const all = (await call('GET', base)).json as unknown as { total: number; rows: unknown[] };
    expect(all.rows).to.have.length(all.total);
    expect(((await call('GET', `${base}&limit=1`)).json as unknown as { rows: unknown[] }).rows).to.have.length(1);
    const csv = await call('GET', `${base}&format=csv`);
    expect(csv.headers.get('content-disposition')).to.match(/findings-2026-11-12-desktop\.csv/);
    expect(csv.text.trim().split('\r\n')).to.have.length(all.total + 1);
    expect((await call('GET', `${base}&format=sarif`)).json.version).to.equal('2.1.0');
    for (const bad of ['limit=0', 'sort=colour', 'concern=x'])
      expect((await call('GET', `${base}&${bad}`)).status, bad).to.equal(400);
  });

  it('gives the bench of a sweep its graphs and fixes', async () => {
    const r = (await call('GET', `/api/sweeps/${sweepId}/bench?device=phone`)).json as unknown as {
      device: string;
      pages: { graph: { fetches: unknown[] } }[];
      counts: Record<string, number>;
    };
    expect(r.device).to.equal('desktop');
    expect(r.pages[0]?.graph.fetches.length).to.be.above(0);
    expect(r.counts.mixed).to.be.above(0);
    expect((await call('GET', '/api/sweeps/999/bench')).status).to.equal(404);
  });

  it('hands captured bodies out inert: nothing captured can run in our origin', async () => {
    const hash = (await import('../../src/engine/store/bodies')).contentHash(new TextEncoder().encode(svg));
    const r = await call('GET', `/api/bodies/${hash}`);
    expect(r.status).to.equal(200);
    expect(r.headers.get('content-type')).to.equal('application/octet-stream');
    expect(r.headers.get('content-disposition')).to.equal('attachment');
    expect(r.headers.get('content-security-policy')).to.match(/^sandbox/);
    expect(r.headers.get('x-content-type-options')).to.equal('nosniff');
    expect((await call('GET', '/api/bodies/..%2f..%2fetc%2fpasswd')).status).to.equal(404);
    expect((await call('GET', `/api/bodies/${'0'.repeat(64)}`)).status).to.equal(404);
  });

  it('answers on its own names only, and with safe headers', async () => {
    const foreign = await new Promise<number | undefined>((done) => {
      http.get(`${server.url}/api/sites`, { headers: { host: 'evil.example' } }, (r) => done(r.statusCode));
    });
    expect(foreign).to.equal(403);
    for (const headers of [{ origin: 'https://evil.example' }, { 'sec-fetch-site': 'cross-site' }]) {
      expect((await call('POST', '/api/demo', undefined, headers as never)).status).to.equal(403);
      expect((await call('DELETE', `/api/sites/${siteId}`, undefined, headers as never)).status).to.equal(403);
    }
    const page = await call('GET', '/');
    const policy = page.headers.get('content-security-policy') ?? '';
    expect(policy).to.match(/default-src 'self'/);
    expect(/script-src ([^;]*)/.exec(policy)?.[1]).to.match(/^'self'( 'sha256-[\w+/]+='){3,}$/);
  });

  it('sends files compressed for ever, answers compressed, and what is known already not again', async () => {
    const encodings = ['br', 'gzip'];
    const assets = path.join(projectRoot(), 'dist/client/_astro');
    const script = fs.readdirSync(assets).find((f) => f.startsWith('client.') && f.endsWith('.js')) ?? '';
    for (const encoding of encodings) {
      const file = await fetch(`${server.url}/_astro/${script}`, { headers: { 'accept-encoding': encoding } });
      expect(file.headers.get('content-encoding')).to.equal(encoding);
      expect(file.headers.get('cache-control')).to.equal('public, max-age=31536000, immutable');
      expect(file.headers.get('vary')).to.match(/accept-encoding/i);
      expect(await file.text()).to.equal(fs.readFileSync(path.join(assets, script), 'utf8'));
      const answer = await fetch(`${server.url}/api/checks`, { headers: { 'accept-encoding': encoding } });
      expect(answer.headers.get('content-encoding')).to.equal(encoding);
      const page = await fetch(server.url, { headers: { 'accept-encoding': encoding } });
      expect(page.headers.get('content-encoding')).to.equal(encoding);
    }
    const first = await fetch(`${server.url}/api/checks`);
    const etag = first.headers.get('etag') ?? '';
    expect(etag).to.match(/^W\/"/);
    expect(first.headers.get('cache-control')).to.equal('private, no-cache');
    const again = await fetch(`${server.url}/api/checks`, { headers: { 'if-none-match': etag } });
    expect([again.status, await again.text()]).to.deep.equal([304, '']);
    const other = await fetch(`${server.url}/api/checks`, { headers: { 'if-none-match': 'W/"other"' } });
    expect(other.status).to.equal(200);
  });

  it('asks for the password where one is set, for files too', async () => {
    const locked = await startServer({ KEEN_LENS_PASSWORD: 'fern' });
    try {
      const status = async (auth?: string) =>
        (
          await fetch(`${locked.url}/api/health`, {
            headers: auth ? { authorization: `Basic ${Buffer.from(auth).toString('base64')}` } : {},
          })
        ).status;
      expect([await status(), await status('a:moss'), await status('a:fern')]).to.deep.equal([401, 401, 200]);
      const [asset] = fs.readdirSync(path.join(projectRoot(), 'dist/client/_astro'));
      expect((await fetch(`${locked.url}/_astro/${asset}`)).status).to.equal(401);
    } finally {
      await locked.stop();
    }
  });
});
