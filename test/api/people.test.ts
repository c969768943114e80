import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { Attempts } from '../../src/server/access/attempts';
import { ruleOf } from '../../src/server/access/rules';
import { isOneOf } from '../../src/server/access/who';
import { defaultSettings } from '../../src/core/site/settings';
import { addSite } from '../../src/engine/store/sites';
import { openStore, projectRoot, type Store } from '../../src/engine/store/store';
import { addSweep } from '../../src/engine/store/sweeps';
import { askApi } from '../fixtures/jobs';
import { putDemo, startServer, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

const PASSWORD = 'fern moss lichen bark';

/** Somebody's browser: its cookie comes with each request. */
class Visit {
  cookie = '';
  constructor(private readonly server: TestServer) {}

  async ask(method: string, at: string, body?: unknown, headers: Record<string, string> = {}) {
    const form = body instanceof URLSearchParams;
    const response = await fetch(this.server.url + at, {
      method,
      redirect: 'manual',
      body: body === undefined ? undefined : form ? body : JSON.stringify(body),
      headers: {
        ...(body !== undefined && !form && { 'content-type': 'application/json' }),
        ...(this.cookie && { cookie: this.cookie }),
        ...headers,
      },
    });
    for (const set of response.headers.getSetCookie()) {
      const [pair] = set.split(';');
      if (pair && !pair.endsWith('=') && !pair.startsWith('__Host')) this.cookie = pair;
    }
    return response;
  }

  get = (at: string) => this.ask('GET', at);

  async json<T>(at: string): Promise<T> {
    return (await (await this.get(at)).json()) as T;
  }

  login(name: string, password = PASSWORD, to = '/') {
    return this.ask('POST', '/login', new URLSearchParams({ name, password, to }));
  }
}

describe('api: people', () => {
  let server: TestServer;
  let store: Store;
  let other: { siteId: number; sweepId: number };
  const data = tempFolder('people');
  before(async () => {
    await putDemo(data.folder);
    server = await startServer({
      KEEN_LENS_DATA: data.folder,
      KEEN_LENS_PROXY_HEADER: 'x-user',
      KEEN_LENS_PROXY_FROM: '127.0.0.1',
    });
  });
  after(async () => {
    await store.destroy();
    await server.stop();
    data.remove();
  });

  it('change nothing as long as nobody has an account', async () => {
    store = await openStore(data.folder);
    const site = await addSite(store, 'Other garden', 'https://other.fernhollow.example/');
    other = { siteId: site.id, sweepId: await addSweep(store, site.id, defaultSettings(site.home)) };
    expect((await askApi(`${server.url}/api/sites/1`)).status).to.equal(200);
    expect((await fetch(`${server.url}/login`, { redirect: 'manual' })).status).to.equal(303);
    expect((await fetch(`${server.url}/api/me`).then((r) => r.json())) as unknown).to.deep.equal({
      account: null,
      roles: { everywhere: 'administrator', sites: [] },
    });
  });

  it('begin with an administrator, who is logged in at once; from then on everybody has to log in', async () => {
    const ada = new Visit(server);
    const asked = (more: object) => ada.ask('POST', '/api/accounts', { name: 'Ada', password: PASSWORD, ...more });
    expect((await asked({ everywhere: 'auditor' })).status).to.equal(400);
    expect((await asked({ everywhere: 'administrator', password: 'short' })).status).to.equal(400);
    const made = await asked({ everywhere: 'administrator' });
    expect(made.status).to.equal(201);
    expect(made.headers.get('set-cookie')).to.match(
      /^keen-lens=[\w-]{43}; Path=\/; HttpOnly; SameSite=Lax; Max-Age=\d+$/,
    );
    expect((await ada.get('/api/sites/1')).status).to.equal(200);
    const nobody = new Visit(server);
    expect((await nobody.get('/api/sites/1')).status).to.equal(401);
    const turned = await nobody.get('/sites/1?visitor=desktop');
    expect([turned.status, turned.headers.get('location')]).to.deep.equal([
      303,
      '/login?to=%2Fsites%2F1%3Fvisitor%3Ddesktop',
    ]);
    expect((await nobody.get('/login')).status).to.equal(200);
    expect((await nobody.get('/api/health')).status).to.equal(200);
    await ada.ask('POST', '/api/accounts', { name: 'ben', password: PASSWORD, sites: [{ siteId: 1, role: 'fixer' }] });
    await ada.ask('POST', '/api/accounts', { name: 'cleo', password: PASSWORD, sites: [{ siteId: 1, role: 'owner' }] });
    await ada.ask('POST', '/api/accounts', { name: 'dora', password: PASSWORD, everywhere: 'auditor' });
  });

  it('log in with name and password, go where they wanted, and nowhere else', async () => {
    const ben = new Visit(server);
    expect((await ben.login('ben', 'wrong password here')).status).to.equal(401);
    expect((await ben.get('/api/sites')).status).to.equal(401);
    const inside = await ben.login('Ben ', PASSWORD, '/sites/1?visitor=desktop');
    expect([inside.status, inside.headers.get('location')]).to.deep.equal([303, '/sites/1?visitor=desktop']);
    for (const to of ['//evil.example/', 'https://evil.example/', '/\\evil.example', 'javascript:alert(1)'])
      expect((await ben.login('ben', PASSWORD, to)).headers.get('location'), to).to.equal('/');
    expect(await ben.get('/api/me').then((r) => r.text())).to.not.contain('scrypt');
    const long = new URLSearchParams({ name: 'ben', password: 'x'.repeat(100_000) });
    expect((await ben.ask('POST', '/login', long)).status).to.equal(413);
    await ben.ask('POST', '/logout');
    expect((await ben.get('/api/sites')).status).to.equal(401);
  });

  const asOf = async (name: string) => {
    const visit = new Visit(server);
    // By the header of a proxy on this machine: as good as a password, and without its waits.
    const ask = (method: string, at: string, body?: unknown) => visit.ask(method, at, body, { 'x-user': name });
    const status = async (method: string, at: string, body?: unknown) => (await ask(method, at, body)).status;
    return { ask, status };
  };

  it('see and change what their role lets them, on their sites only', async () => {
    const cleo = await asOf('cleo');
    expect(await cleo.status('GET', '/api/sites/1')).to.equal(200);
    expect(await cleo.status('GET', '/sites/1')).to.equal(200);
    expect(await cleo.status('GET', '/api/sites/1/settings')).to.equal(403);
    expect(await cleo.status('PATCH', '/api/sites/1', { name: 'Mine' })).to.equal(403);
    expect(await cleo.status('POST', '/api/sites', { home: 'https://new.example/' })).to.equal(403);
    expect(await cleo.status('GET', '/api/accounts')).to.equal(403);
    expect(await cleo.status('GET', '/api/audit')).to.equal(403);
    expect(await cleo.status('GET', '/api/settings/mail')).to.equal(403);
    // What is not theirs looks as if it were not there.
    expect(await cleo.status('GET', `/api/sites/${other.siteId}`)).to.equal(404);
    expect(await cleo.status('GET', `/sites/${other.siteId}`)).to.equal(404);
    expect(await cleo.status('GET', `/api/sweeps/${other.sweepId}`)).to.equal(404);
    expect(await cleo.status('GET', `/api/sites/1/report?reader=owner&sweep=${other.sweepId}`)).to.equal(404);
    const { sites } = (await (await cleo.ask('GET', '/api/sites')).json()) as { sites: { id: number }[] };
    expect(sites.map((s) => s.id)).to.deep.equal([1]);
    const dora = await asOf('dora');
    expect(await dora.status('GET', `/api/sites/${other.siteId}`)).to.equal(200);
    expect(await dora.status('PATCH', '/api/sites/1', { name: 'Fernhollow Botanic Garden' })).to.equal(200);
    expect(await dora.status('GET', '/api/accounts')).to.equal(403);
    // A job of no site is there for whoever sees all sites, and for nobody else.
    const job = await store
      .insertInto('jobs')
      .values({
        kind: 'import',
        title: 'Import',
        site_id: null,
        sweep_id: null,
        state: 'done',
        input: '{}',
        created_at: '',
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    expect(await dora.status('GET', `/api/jobs/${job.id}`)).to.equal(200);
    expect(await cleo.status('GET', `/api/jobs/${job.id}`)).to.equal(404);
  });

  it('name nothing of other sites in a request: neither a body nor a page of ours gives it away', async () => {
    const page = await store
      .insertInto('pages')
      .values({
        ...(await aPage(store)),
        sweep_id: other.sweepId,
        url: 'https://other.fernhollow.example/secret-fern/',
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const cleo = await asOf('cleo');
    expect(await cleo.status('GET', `/api/pages/${page.id}`)).to.equal(404);
    expect(await (await cleo.ask('GET', `/sites/1/facts/${page.id}`)).text()).to.not.contain('secret-fern');
    const ben = await asOf('ben');
    const shared = await ben.ask('POST', '/api/sites/1/rules', { sweep: other.sweepId });
    expect(shared.status).to.equal(400);
  });

  it('tick off as a fixer, and change nothing else of a plan', async () => {
    const dora = await asOf('dora');
    const ben = await asOf('ben');
    const fix = { group: 'g1', title: 'Defer kit.js', owner: 'Ben', due: '', state: 'open' };
    const made = await dora.ask('POST', '/api/sites/1/plans', { name: 'By the fair', fixes: [fix] });
    const plan = (await made.json()) as { id: number };
    const at = `/api/sites/1/plans/${plan.id}`;
    expect(await ben.status('PUT', at, { name: 'By the fair', fixes: [{ ...fix, state: 'done' }] })).to.equal(200);
    expect(await ben.status('PUT', at, { name: 'By the fair', fixes: [{ ...fix, owner: 'Cleo' }] })).to.equal(400);
    expect(await ben.status('DELETE', at)).to.equal(403);
    const cleo = await asOf('cleo');
    expect(await cleo.status('PUT', at, { name: 'By the fair', fixes: [{ ...fix, state: 'done' }] })).to.equal(403);
  });

  it('change one plan together: both changes stay, and what gave way is said', async () => {
    const dora = await asOf('dora');
    const fix = (more: object) => ({ group: 'g1', title: 'Defer kit.js', owner: '', due: '', state: 'open', ...more });
    const base = { name: 'Together', fixes: [fix({})] };
    const { id } = (await (await dora.ask('POST', '/api/sites/1/plans', base)).json()) as { id: number };
    const at = `/api/sites/1/plans/${id}`;
    await dora.ask('PUT', at, { name: 'Together', fixes: [fix({ owner: 'Ada' })], base });
    const second = await dora.ask('PUT', at, { name: 'Together', fixes: [fix({ state: 'done' })], base });
    const saved = (await second.json()) as { fixes: object[]; conflicts: object[] };
    expect(saved.fixes).to.deep.equal([fix({ owner: 'Ada', state: 'done' })]);
    expect(saved.conflicts).to.deep.equal([]);
    const third = await dora.ask('PUT', at, { name: 'Together', fixes: [fix({ owner: 'Ben' })], base });
    expect(((await third.json()) as { conflicts: object[] }).conflicts).to.deep.equal([
      { fix: 'Defer kit.js', field: 'owner', kept: 'Ben', lost: 'Ada' },
    ]);
  });

  it('use tokens within their scope, until they are deleted', async () => {
    const ben = await asOf('ben');
    expect(await ben.status('POST', '/api/tokens', { name: 'x', scope: 'record' })).to.equal(400);
    const made = (await (await ben.ask('POST', '/api/tokens', { name: 'nightly', scope: 'read' })).json()) as {
      token: string;
      row: { id: number };
    };
    const withToken = async (method: string, at: string, body?: unknown) =>
      (await new Visit(server).ask(method, at, body, { authorization: `Bearer ${made.token}` })).status;
    expect(await withToken('GET', '/api/sites/1')).to.equal(200);
    expect(await withToken('GET', `/api/sites/${other.siteId}`)).to.equal(404);
    expect(await withToken('POST', '/api/sites/1/plans', {})).to.equal(403);
    const cleo = await asOf('cleo');
    expect(await cleo.status('DELETE', `/api/tokens/${made.row.id}`)).to.equal(404);
    expect(await ben.status('DELETE', `/api/tokens/${made.row.id}`)).to.equal(204);
    expect(await withToken('GET', '/api/sites/1')).to.equal(401);
  });

  it('are logged out when their password changes or they are locked; one administrator stays', async () => {
    const ada = await asOf('ada');
    const accounts = (await (await ada.ask('GET', '/api/accounts')).json()) as { id: number; name: string }[];
    const idOf = (name: string) => accounts.find((a) => a.name === name)?.id;
    const browser = new Visit(server);
    await browser.login('cleo');
    expect((await browser.get('/api/sites/1')).status).to.equal(200);
    expect((await browser.ask('PUT', '/api/me', { current: 'not it at all', password: PASSWORD })).status).to.equal(
      400,
    );
    const elsewhere = new Visit(server);
    await elsewhere.login('cleo');
    await browser.ask('PUT', '/api/me', { current: PASSWORD, password: 'another long password' });
    expect((await browser.get('/api/sites/1')).status).to.equal(200);
    expect((await elsewhere.get('/api/sites/1')).status).to.equal(401);
    await ada.ask('PATCH', `/api/accounts/${idOf('cleo')}`, { disabled: true });
    expect((await browser.get('/api/sites/1')).status).to.equal(401);
    expect(await (await asOf('cleo')).status('GET', '/api/sites/1')).to.equal(401);
    expect(await ada.status('PATCH', `/api/accounts/${idOf('ada')}`, { disabled: true })).to.equal(400);
    expect(await ada.status('DELETE', `/api/accounts/${idOf('ada')}`)).to.equal(400);
    expect(await ada.status('DELETE', `/api/accounts/${idOf('cleo')}`)).to.equal(204);
  });

  it('wait longer with each wrong password, by name and by address', async () => {
    const one = new Visit(server);
    const statuses: number[] = [];
    for (let i = 0; i < 7; i++) statuses.push((await one.login('nobody-there', `wrong ${i}`)).status);
    expect(statuses.slice(0, 4)).to.deep.equal([401, 401, 401, 401]);
    // The address waits as well: a right name and password come too early.
    const early = await one.login('dora');
    expect(early.status).to.equal(429);
    expect(Number(early.headers.get('retry-after'))).to.be.above(0);
    expect(early.headers.get('set-cookie')).to.equal(null);
    let now = 0;
    const attempts = new Attempts(() => now);
    for (let i = 0; i < 7; i++) attempts.failed('a');
    expect([attempts.waitS('a'), attempts.waitS('b')]).to.deep.equal([4, 0]);
    now = 4000;
    expect(attempts.waitS('a')).to.equal(0);
    attempts.failed('a');
    expect(attempts.waitS('a')).to.equal(8);
    attempts.succeeded('a');
    expect(attempts.waitS('a')).to.equal(0);
  });

  it('find in the log who changed what', async () => {
    const ada = await asOf('ada');
    const log = (await (await ada.ask('GET', '/api/audit?limit=500')).json()) as { who: string; says: string }[];
    const lines = log.map((l) => `${l.who}: ${l.says}`);
    expect(lines).to.include.members([
      'dora: changed a site',
      'ben: changed a plan',
      'ben: made a token',
      'nobody-there: tried to log in with a wrong name or password',
      'ben: logged in',
      'ada: deleted an account',
    ]);
    expect(lines.some((l) => l.startsWith('cleo: changed a plan'))).to.equal(false);
    const csv = await (await ada.ask('GET', '/api/audit?format=csv&who=dora')).text();
    expect(csv.split('\r\n')[0]).to.equal('time,who,what,method,path,site,address');
  });

  it('are not believed who they are by a header from elsewhere, nor to change things from other pages', async () => {
    const outside = await startServer({ KEEN_LENS_PROXY_HEADER: 'x-user', KEEN_LENS_PROXY_FROM: '10.0.0.0/8' });
    try {
      const ada = new Visit(outside);
      await ada.ask('POST', '/api/accounts', { name: 'ada', password: PASSWORD, everywhere: 'administrator' });
      const forged = { 'x-user': 'ada', 'x-keen-lens-address': '10.0.0.1', 'x-forwarded-for': '10.0.0.1' };
      expect((await new Visit(outside).ask('GET', '/api/sites', undefined, forged)).status).to.equal(401);
      const crossSite = { origin: 'https://evil.example', 'sec-fetch-site': 'cross-site' };
      expect((await ada.ask('POST', '/api/demo', {}, crossSite)).status).to.equal(403);
      // A name of its own, as behind a proxy: passwords by http are refused, and the cookie is for https only.
      expect((await ada.ask('GET', '/api/sites')).status).to.equal(200);
    } finally {
      await outside.stop();
    }
    expect(isOneOf('10.2.3.4', '127.0.0.1, 10.0.0.0/8')).to.equal(true);
    expect(isOneOf('::ffff:10.2.3.4', '10.0.0.0/8')).to.equal(true);
    expect(isOneOf('11.2.3.4', '10.0.0.0/8')).to.equal(false);
    expect(isOneOf('', '')).to.equal(false);
  });

  it('meet a rule at every address of the API and every screen', () => {
    const root = path.join(projectRoot(), 'src/pages');
    const files = fs.readdirSync(root, { recursive: true, encoding: 'utf8' });
    const missing = files
      .filter((f) => /\.(ts|astro)$/.test(f) && !path.basename(f).startsWith('_') && !f.startsWith('404'))
      .flatMap((f) => {
        const text = fs.readFileSync(path.join(root, f), 'utf8');
        const methods = f.endsWith('.astro')
          ? ['GET']
          : [...text.matchAll(/export const ([A-Z]+)\b/g)].map((m) => m[1]);
        const at = `/${f.replace(/(\/?index)?\.(ts|astro)$/, '').replace(/\[\w+\]/g, '7')}`;
        return methods.filter((m) => !ruleOf(m ?? '', at).named).map((m) => `${m} ${at}`);
      });
    expect(missing).to.deep.equal([]);
    expect(ruleOf('GET', '/api/something-new')).to.include({ need: 'administrator', named: false });
  });
});

/** The columns of some page, to make another of. */
async function aPage(store: Store) {
  const row = await store.selectFrom('pages').selectAll().limit(1).executeTakeFirstOrThrow();
  return { ...row, id: undefined };
}
