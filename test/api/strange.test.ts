import { expect } from 'chai';
import { sql } from 'kysely';
import fs from 'node:fs';
import http from 'node:http';
import path from 'node:path';
import { addSite } from '../../src/engine/store/sites';
import { DATABASE, openStore, projectRoot } from '../../src/engine/store/store';
import { har, PAGE } from '../fixtures/har';
import { startServer, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

/** The addresses of the API routes that have a method, with something in the place of each parameter. */
function routes(parameter: string, method = 'GET'): string[] {
  const folder = path.join(projectRoot(), 'src/pages/api');
  const files = fs.readdirSync(folder, { recursive: true, encoding: 'utf8' });
  return files
    .filter((f) => f.endsWith('.ts') && !path.basename(f).startsWith('_'))
    .filter((f) => fs.readFileSync(path.join(folder, f), 'utf8').includes(`export const ${method} =`))
    .map((f) => '/api/' + f.replace(/(\/?index)?\.ts$/, '').replace(/\[[^\]]+\]/g, encodeURIComponent(parameter)));
}

/** Streams of events have no end of their own. */
const endless = (route: string) => /events/.test(route);

describe('api: strange requests', () => {
  let server: TestServer;
  before(async () => {
    server = await startServer();
    const answer = await fetch(`${server.url}/api/captures`, {
      method: 'POST',
      headers: { 'x-file-name': 'page.har' },
      body: Buffer.from(
        JSON.stringify(
          har([{ url: PAGE, body: '<!doctype html><title>Fern</title><img src="http://a.example/x.png">' }]),
        ),
      ),
    });
    expect(answer.status).to.equal(201);
  });
  after(() => server.stop());

  const send = async (method: string, route: string, body?: string): Promise<{ status: number; text: string }> => {
    const answer = await fetch(server.url + route, {
      method,
      body,
      headers: body === undefined ? {} : { 'content-type': 'application/json' },
    });
    return { status: answer.status, text: await answer.text() };
  };

  /** Everything but a fault of ours; an error says what, where and what next. */
  const expectAnswer = (what: string, { status, text }: { status: number; text: string }) => {
    expect(status, `${what}: ${text.slice(0, 300)}`).to.be.below(500);
    // An address that cannot be decoded is refused before it reaches a route.
    if (status === 400 && text !== 'Bad request.') expect(JSON.parse(text), what).to.have.nested.property('error.next');
  };

  const VALUES = [
    '__proto__',
    'constructor',
    'toString',
    '-1',
    '1e99',
    'NaN',
    '%00',
    '../../etc/passwd',
    'ü'.repeat(300),
    '',
  ];
  const NAMES =
    'flag sort filter search device visitor page site sweep concern harm check cause folder template host muted state status type kind order offset limit format column against fix scope plan target ids url'.split(
      ' ',
    );

  for (const parameter of ['1', '0', '__proto__', '9999999999999999'])
    it(`answers reads of ${parameter} with no fault of its own`, async () => {
      for (const route of routes(parameter)) {
        if (endless(route)) continue;
        expectAnswer(route, await send('GET', route));
      }
    });

  it('answers reads with any value of any parameter', async () => {
    for (const [i, route] of routes('1').entries()) {
      if (endless(route)) continue;
      // A third of the values for each route, another third for the next: all of them meet each kind of parameter.
      for (const value of VALUES.filter((_, k) => (i + k) % 3 === 0)) {
        const query = NAMES.map((name) => `${name}=${encodeURIComponent(value)}`).join('&');
        expectAnswer(`${route}?…=${value}`, await send('GET', `${route}?${query}`));
      }
      expectAnswer(`${route}?__proto__`, await send('GET', `${route}?__proto__=1&constructor[x]=1&%E0%A4%A`));
    }
  });

  it('answers changes with any body', async () => {
    const bodies = [
      '',
      '{',
      'null',
      '[]',
      '"x"',
      '{"__proto__":{"a":1}}',
      '{"constructor":{"prototype":{"a":1}}}',
      '{"name":{"__proto__":1},"home":["__proto__"],"settings":null,"urls":"__proto__","visitor":"__proto__","fixes":{},"limits":{"__proto__":{"x":1}},"state":"__proto__"}',
      JSON.stringify({ name: 'x'.repeat(100_000), home: `https://${'a'.repeat(3000)}.example/` }),
      '['.repeat(5000),
    ];
    for (const method of ['POST', 'PUT', 'PATCH'])
      for (const [i, route] of routes('1', method)
        .filter((r) => !/\/(demo|captures)$/.test(r))
        .entries())
        for (const body of bodies.filter((_, k) => (i + k) % 2 === 0))
          expectAnswer(`${method} ${route} ${body.slice(0, 40)}`, await send(method, route, body));
  });

  it('does not serve methods that nobody needs', async () => {
    for (const method of ['TRACE', 'CONNECT', 'PROPFIND', 'LINK']) {
      const status = await new Promise<number | undefined>((done) => {
        const request = http.request(`${server.url}/api/sites`, { method }, (answer) => {
          answer.resume();
          done(answer.statusCode);
        });
        request.on('connect', (answer) => done(answer.statusCode));
        request.on('error', () => done(undefined));
        request.end();
      });
      expect(status ?? 405, method).to.equal(405);
    }
  });

  it('names what an upload is, and keeps none that failed', async () => {
    for (const [bytes, what] of [
      [Buffer.alloc(0), /file/],
      [Buffer.from('%PDF-1.7'), /PDF/],
      [Buffer.from('{"log":'), /ends in the middle/],
      [Buffer.from([0x1f, 0x8b, 1, 2, 3]), /unpacked/],
    ] as const) {
      const answer = await fetch(`${server.url}/api/captures`, { method: 'POST', body: bytes });
      expect(answer.status).to.equal(400);
      expect(((await answer.json()) as { error: { what: string } }).error.what).to.match(what);
    }
    const uploads = path.join(server.data, 'uploads');
    expect(fs.existsSync(uploads) ? fs.readdirSync(uploads) : []).to.deep.equal([]);
  });

  it('ends a costly import at once when it is cancelled, and keeps nothing of it', async () => {
    const costly = `<!doctype html><title>Costly</title>${'<p>hello <b>x</b> <img src="/a.png">'.repeat(60_000)}`;
    const upload = fetch(`${server.url}/api/captures`, {
      method: 'POST',
      headers: { 'x-file-name': 'costly.har' },
      body: Buffer.from(JSON.stringify(har([{ url: `${PAGE}costly`, body: costly }]))),
    });
    interface Job {
      readonly id: number;
      readonly state: string;
      readonly title: string;
      readonly phase: string | null;
    }
    const find = async (): Promise<Job | undefined> =>
      ((await (await fetch(`${server.url}/api/jobs`)).json()) as { jobs: Job[] }).jobs.find((j) =>
        j.title.includes('costly'),
      );
    let job = await find();
    while (job?.phase !== 'examining') job = await find();
    await send('POST', `/api/jobs/${job.id}`, '{"action":"cancel"}');
    const answer = await upload;
    expect([answer.status, await answer.text()]).to.satisfy(
      ([status, text]: [number, string]) => status === 400 && text.includes('cancelled'),
    );
    expect((await find())?.state).to.equal('cancelled');
    const sites = (await (await fetch(`${server.url}/api/sites`)).json()) as { captures?: number }[];
    expect(JSON.stringify(sites)).not.to.contain('costly');
    expect(fs.readdirSync(path.join(server.data, 'uploads'))).to.deep.equal([]);
    // Its lane is free again.
    const next = await fetch(`${server.url}/api/captures`, {
      method: 'POST',
      body: Buffer.from(JSON.stringify(har([{ url: `${PAGE}next`, body: '<!doctype html><p>next' }]))),
    });
    expect(next.status).to.equal(201);
  });

  it('says that another server has the folder', async () => {
    const second = await startServer({ KEEN_LENS_DATA: server.data });
    try {
      const answer = await fetch(`${second.url}/api/health`);
      expect(answer.status).to.equal(503);
      const { error } = (await answer.json()) as { error: { what: string; next: string } };
      expect(error.what).to.contain(`at port ${new URL(server.url).port}`);
      const page = await fetch(second.url);
      expect([page.status, await page.text()]).to.satisfy(
        ([status, text]: [number, string]) => status === 503 && text.includes('Another Keen Lens'),
      );
    } finally {
      await second.stop();
    }
    expect((await fetch(`${server.url}/api/health`)).status).to.equal(200);
  });

  it('says that the database is damaged, in words and once', async () => {
    const broken = tempFolder('broken');
    const store = await openStore(broken.folder);
    for (let i = 0; i < 300; i++) await addSite(store, `Site ${i}`, `https://www.site-${i}.example/${'x'.repeat(400)}`);
    await sql`pragma wal_checkpoint(truncate)`.execute(store);
    await store.destroy();
    const file = path.join(broken.folder, DATABASE);
    const bytes = fs.readFileSync(file);
    bytes.fill(0xa5, bytes.length - 60_000, bytes.length - 1000);
    fs.writeFileSync(file, bytes);
    const sick = await startServer({ KEEN_LENS_DATA: broken.folder });
    try {
      const answer = await fetch(`${sick.url}/api/sites`);
      expect(answer.status).to.equal(503);
      const { error } = (await answer.json()) as { error: { what: string; where: string; next: string } };
      expect(error.what).to.equal('The database is damaged.');
      expect(error.where).to.equal(file);
      expect(error.next).to.match(/recover/);
    } finally {
      await sick.stop();
      broken.remove();
    }
  });
});
