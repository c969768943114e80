import { expect } from 'chai';
import type { ServerResponse } from 'node:http';
import path from 'node:path';
import zlib from 'node:zlib';
import type { SweepSettings } from '../../../src/core/site/settings';
import { Control } from '../../../src/engine/crawl/control';
import { crawl } from '../../../src/engine/crawl/crawl';
import { finishSweep } from '../../../src/engine/services/finishSweep';
import { listNotes } from '../../../src/engine/store/sweepNotes';
import { retryFailed } from '../../../src/engine/store/crawlPages';
import { linking, madeSite, type Answer, type MadeSite } from '../../fixtures/site';
import { fastSettings, sweepInto } from '../../fixtures/sweep';
import { tempFolder } from '../../fixtures/temp';

describe('engine/crawl', () => {
  const temp = tempFolder('crawl');
  let site: MadeSite | undefined;
  let count = 0;
  afterEach(async () => {
    await site?.close();
    site = undefined;
  });
  after(temp.remove);

  /** Sweeps a site made of answers by path; gives its rows by path. */
  const sweep = async (
    answers: Record<string, Answer | ((n: number) => Answer)>,
    more: (home: string) => Partial<SweepSettings> = () => ({}),
    options: { maxAnswerMs?: number } = {},
  ) => {
    const times = new Map<string, number>();
    site = await madeSite((at) => {
      const n = (times.get(at) ?? 0) + 1;
      times.set(at, n);
      const answer = answers[at];
      return typeof answer === 'function' ? answer(n) : answer;
    });
    const settings = fastSettings(site.home, { sitemaps: false, ...more(site.home) });
    const { store, sweepId } = await sweepInto(path.join(temp.folder, String(++count)), settings, options);
    const rows = await store.selectFrom('pages').selectAll().execute();
    const origin = site.home.slice(0, -1);
    const page = (at: string) => {
      const row = rows.find((r) => r.url === origin + at);
      if (!row) throw new Error(`${at} is not among ${rows.map((r) => r.url).join(' ')}`);
      return row;
    };
    const paths = rows.map((r) => r.url.replace(origin, '')).sort();
    const notes = await listNotes(store, sweepId);
    return { store, sweepId, settings, rows, page, paths, notes, asked: site.asked };
  };

  it('follows links, keeps status, sizes and facts, and leaves other sites alone', async () => {
    const body = linking('/a', 'https://growers.mossbank.example/');
    const { page, paths, store } = await sweep({
      '/': body,
      '/a': { body: zlib.gzipSync(linking('/')), headers: { 'content-encoding': 'gzip', 'cache-control': 'no-store' } },
    });
    expect(paths).to.deep.equal(['/', '/a']);
    expect(page('/a')).to.include({
      state: 'done',
      status: 200,
      encoding: 'gzip',
      title: 'Page',
      depth: 1,
      links_in: 1,
    });
    expect(page('/a').transfer_bytes).to.be.above(0);
    expect(page('/').decoded_bytes).to.equal(Buffer.byteLength(body));
    expect(JSON.parse(page('/a').details ?? '{}')).to.have.nested.property('headers.cache-control', 'no-store');
    const outside = await store.selectFrom('links').selectAll().where('to_id', 'is', null).execute();
    expect(outside.map((l) => [l.url, l.line])).to.deep.equal([['https://growers.mossbank.example/', 4]]);
    await store.destroy();
  });

  it('follows redirects hop by hop, of HTTP and of meta refresh, and notices circles', async () => {
    const { page, store } = await sweep({
      '/': linking('/one', '/meta', '/round'),
      '/one': { status: 302, headers: { location: '/two' } },
      '/two': { status: 301, headers: { location: '/end' } },
      '/end': linking(),
      '/meta': '<meta http-equiv="refresh" content="0;url=/end">',
      '/round': { status: 307, headers: { location: '/around' } },
      '/around': { status: 307, headers: { location: '/round' } },
    });
    const hops = JSON.parse(page('/one').hops ?? '[]') as { url: string; status: number; kind: string }[];
    expect(hops.map((h) => [new URL(h.url).pathname, h.status, h.kind])).to.deep.equal([
      ['/one', 302, 'http'],
      ['/two', 301, 'http'],
    ]);
    expect(page('/one').final_status).to.equal(200);
    expect(new URL(page('/one').final_url ?? '').pathname).to.equal('/end');
    expect(page('/meta')).to.include({ redirect_kind: 'meta', hop_count: 1 });
    expect(page('/round')).to.include({ final_status: 0 });
    expect(page('/')).to.include({ links_redirected: 3, links_missing: 1 });
    await store.destroy();
  });

  it('reads sitemaps named in robots.txt: index, gzip; finds what nothing links to and obeys robots.txt', async () => {
    const set = (home: string, ...at: string[]) =>
      `<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">${at.map((a) => `<url><loc>${home}${a}</loc></url>`).join('')}</urlset>`;
    site = await madeSite((at, home) => {
      switch (at) {
        case '/robots.txt':
          return {
            body: `User-agent: *\nDisallow: /private/\nSitemap: ${home}maps.xml\n`,
            headers: { 'content-type': 'text/plain' },
          };
        case '/maps.xml':
          return `<sitemapindex><sitemap><loc>${home}one.xml.gz</loc></sitemap><sitemap><loc>${home}gone.xml</loc></sitemap></sitemapindex>`;
        case '/one.xml.gz':
          return {
            body: zlib.gzipSync(set(home, '', 'forgotten', 'private/x')),
            headers: { 'content-type': 'application/gzip' },
          };
        case '/':
          return linking('/private/y');
        case '/forgotten':
          return linking();
        default:
          return undefined;
      }
    });
    const { store, sweepId } = await sweepInto(path.join(temp.folder, String(++count)), fastSettings(site.home));
    const rows = await store.selectFrom('pages').selectAll().orderBy('url').execute();
    const brief = rows.map((r) => [new URL(r.url).pathname, r.state, r.depth, r.links_in, r.in_sitemap !== null]);
    expect(brief).to.deep.equal([
      ['/', 'done', 0, 0, true],
      ['/forgotten', 'done', null, 0, true],
      ['/private/x', 'skipped', null, 0, true],
      ['/private/y', 'skipped', 1, 1, false],
    ]);
    expect(site.asked.filter((a) => a.startsWith('/private/'))).to.deep.equal([]);
    expect((await listNotes(store, sweepId)).map((n) => n.what)).to.deep.equal(['The sitemap answers 404.']);
    await store.destroy();
  });

  it('takes a list, patterns, depth, number of pages, noindex and nofollow to heart', async () => {
    const answers = {
      '/': `${linking('/a/1', '/b/1', '/c?utm_source=x&v=1')}<a rel="nofollow" href="/n">n</a>`,
      '/a/1': linking('/a/2'),
      '/a/2': linking('/a/3'),
      '/b/1': linking(),
      '/c?v=1': linking(),
      '/n': linking(),
      '/listed': { body: linking(), headers: { 'x-robots-tag': 'noindex' } },
    };
    const one = await sweep(answers, () => ({ exclude: ['/b/'], maxDepth: 2, obeyNofollow: true }));
    expect(one.paths).to.deep.equal(['/', '/a/1', '/a/2', '/a/3', '/c?v=1']);
    expect(one.page('/a/3')).to.include({ state: 'skipped' });
    expect(one.page('/a/3').why).to.match(/deeper/);
    await one.store.destroy();
    await site?.close();
    const two = await sweep(answers, (home) => ({
      followLinks: false,
      list: [`${home}listed`, `${home}a/1`, 'https://growers.mossbank.example/'],
      obeyNoindex: true,
    }));
    expect(two.paths).to.deep.equal(['/a/1', '/listed']);
    expect(two.page('/listed')).to.include({ state: 'skipped', status: 200 });
    expect(two.notes.map((n) => n.kind)).to.deep.equal(['list']);
    await two.store.destroy();
    await site?.close();
    const three = await sweep(answers, () => ({ maxPages: 2 }));
    expect(three.rows.filter((r) => r.state === 'done')).to.have.length(2);
    expect(three.rows.filter((r) => /number of pages/.test(r.why ?? ''))).to.have.length(4);
    await three.store.destroy();
  });

  it('waits out 429 and 503 as Retry-After asks, and gives up on a host that asks for too long', async () => {
    const { page, notes, store } = await sweep({
      '/': linking('/busy', '/closed'),
      '/busy': (n) => (n === 1 ? { status: 429, headers: { 'retry-after': '0' } } : linking()),
      '/closed': { status: 503, headers: { 'retry-after': '86400' } },
    });
    expect(page('/busy')).to.include({ state: 'done', status: 200 });
    expect(page('/closed').state).to.equal('failed');
    expect(page('/closed').why).to.match(/asks for 86400 s/);
    expect(notes.map((n) => [n.kind, n.count])).to.deep.equal([['slowed', 2]]);
    await store.destroy();
  });

  it('cuts off endless answers, bombs and broken connections, and says so of each page', async () => {
    const { page, store } = await sweep(
      {
        '/': linking('/endless', '/bomb', '/broken', '/lies', '/picture'),
        '/endless': {
          with: (response) => {
            response.writeHead(200, { 'content-type': 'text/html' });
            response.write(linking('/'));
          },
        },
        '/bomb': { body: zlib.gzipSync(Buffer.alloc(40 << 20)), headers: { 'content-encoding': 'gzip' } },
        '/broken': { with: (response) => response.destroy() },
        '/lies': { body: 'plain', headers: { 'content-encoding': 'gzip' } },
        '/picture': { body: Buffer.alloc(1000), headers: { 'content-type': 'image/jpeg' } },
      },
      () => ({}),
      { maxAnswerMs: 700 },
    );
    const notes = (at: string) => (JSON.parse(page(at).details ?? '{}') as { notes: string[] }).notes.join(' ');
    expect(notes('/endless')).to.match(/had not ended after 1 s/);
    expect(page('/endless').links_out).to.equal(1);
    expect(page('/bomb').why).to.match(/unpack to more than 10 MB/);
    expect(page('/broken').why).to.match(/broke the connection off/);
    expect(notes('/lies')).to.match(/cannot be unpacked/);
    expect(page('/picture')).to.include({ state: 'done', type: 'image/jpeg', links_out: 0 });
    await store.destroy();
  });

  it('sends headers and password to the site itself only', async () => {
    const other = await madeSite(() => linking());
    const { asked, store } = await sweep({ '/': { status: 302, headers: { location: other.home } } }, () => ({
      headers: [{ name: 'X-Key', value: 'leaf' }],
      basicAuth: { username: 'gardener', password: 'fern' },
    }));
    expect(asked).to.contain('/');
    const own = site?.headers.find((h) => h['x-key']);
    expect(own?.authorization).to.equal(`Basic ${Buffer.from('gardener:fern').toString('base64')}`);
    expect(other.headers.length).to.be.above(0);
    for (const h of other.headers) expect([h['x-key'], h.authorization]).to.deep.equal([undefined, undefined]);
    await store.destroy();
    await other.close();
  });

  it('refuses private addresses unless they are allowed', async () => {
    const { page, store, asked } = await sweep({ '/': linking() }, () => ({ allowPrivate: false }));
    expect(page('/').state).to.equal('failed');
    expect(page('/').why).to.match(/private address/);
    expect(asked).to.deep.equal([]);
    await store.destroy();
    await site?.close();
    const second = await sweep({ '/': linking() }, () => ({ allowPrivate: false, obeyRobots: false }));
    expect(second.page('/').why).to.match(/private address/);
    await second.store.destroy();
  });

  it('pauses and goes on without visiting a page twice, and tries again what failed', async () => {
    let broken = true;
    const many = Array.from({ length: 150 }, (_, i) => `/p/${i}`);
    site = await madeSite((at) =>
      at === '/'
        ? linking(...many)
        : at === '/p/7' && broken
          ? { with: (r) => r.destroy() }
          : at === '/robots.txt'
            ? undefined
            : linking('/'),
    );
    const control = new Control();
    site.onRequest = (n) => n === 60 && control.stop('pause');
    const settings = fastSettings(site.home, { sitemaps: false });
    const { store, sweepId } = await sweepInto(path.join(temp.folder, String(++count)), settings, { control });
    const done = async () =>
      (await store.selectFrom('pages').select('id').where('state', '=', 'done').execute()).length;
    const before = await done();
    expect(before).to.be.within(1, 149);
    const asked = site.asked.length;
    await crawl(store, sweepId, settings, { control: new Control(), retryMs: 20 });
    expect(await done()).to.equal(150);
    // Robots.txt is read again, the broken page is tried three times.
    expect(site.asked.length - asked).to.equal(151 - before + 1 + 2);
    broken = false;
    expect(await retryFailed(store, sweepId)).to.equal(1);
    await crawl(store, sweepId, settings, { control: new Control() });
    await finishSweep(store, sweepId);
    expect(await done()).to.equal(151);
    await store.destroy();
  });

  it('reads as much of a robots.txt as counts, however long it is', async () => {
    const rules = Buffer.from(`User-agent: *\nDisallow: /shut\n${'Disallow: /*a*b*c*d*e$\n'.repeat(60_000)}`);
    const { paths, page } = await sweep(
      {
        '/': linking('/open', '/shut'),
        '/open': linking(),
        '/robots.txt': {
          with: (response) => {
            response.writeHead(200, { 'content-type': 'text/plain' });
            const more = () => {
              while (response.write(rules));
              response.once('drain', more);
            };
            more();
          },
        },
      },
      () => ({ obeyRobots: true }),
    );
    expect(paths).to.deep.equal(['/', '/open', '/shut']);
    expect(page('/open').status).to.equal(200);
    expect(page('/shut').why).to.match(/robots\.txt/);
  });

  it('gives up a server that sends its answer a byte at a time', async () => {
    const drip = (response: ServerResponse, head: boolean) => {
      const text = head ? 'HTTP/1.1 200 OK\r\nx-long: ' : 'HTTP/1.1 200 OK\r\ncontent-type: text/html\r\n\r\n<p>';
      response.socket?.write(text);
      const timer = setInterval(() => response.socket?.write('x'), 50);
      response.on('close', () => clearInterval(timer));
    };
    const { page } = await sweep(
      {
        '/': linking('/head', '/body'),
        '/head': { with: (response) => drip(response, true) },
        '/body': { with: (response) => drip(response, false) },
      },
      () => ({}),
      { maxAnswerMs: 600 },
    );
    expect(page('/head')).to.include({ state: 'failed' });
    expect(page('/head').why).to.match(/no answer (within|came in time)/);
    expect(page('/body')).to.include({ state: 'done', status: 200 });
  });

  it('keeps the address of no secret, and asks for it all the same, also when it goes on', async () => {
    const secret = 'Fern4711Hollow';
    const asked: string[] = [];
    const answers: Record<string, Answer> = {
      '/': linking(`/in?authToken=${secret}`, `/reset/${secret}0815`, `/gone?ticket=${secret}`),
      [`/in?authToken=${secret}`]: `<title>by ${secret}</title>` + linking('/after'),
      [`/reset/${secret}0815`]: linking(),
      [`/gone?ticket=${secret}`]: { status: 302, headers: { location: `https://other.example/?code=${secret}` } },
      '/after': linking(),
    };
    const { store, rows, sweepId } = await sweep(answers, () => ({
      headers: [{ name: 'X-Garden', value: 'Moss0815Bank' }],
    }));
    asked.push(...(site?.asked ?? []));
    expect(asked).to.include.members([`/in?authToken=${secret}`, `/reset/${secret}0815`, `/gone?ticket=${secret}`]);
    const origin = (site?.home ?? '').slice(0, -1);
    expect(rows.map((r) => r.url.replace(origin, '')).sort()).to.deep.equal([
      '/',
      '/after',
      '/gone?ticket=cut',
      '/in?authToken=cut',
      '/reset/cut',
    ]);
    for (const table of ['pages', 'links', 'mentions', 'sweep_notes', 'sweeps'] as const) {
      const all = JSON.stringify(await store.selectFrom(table).selectAll().execute());
      for (const text of [secret, 'Moss0815Bank']) expect(all, table).not.to.contain(text);
    }
    // What waits is asked for by its whole address after an interruption too.
    asked.length = 0;
    if (site) site.asked.length = 0;
    await store.updateTable('pages').set({ state: 'waiting' }).where('url', 'like', '%/in?%').execute();
    await crawl(store, sweepId, fastSettings(site?.home ?? '', { sitemaps: false }), { control: new Control() });
    expect(site?.asked.filter((p) => p !== '/robots.txt')).to.deep.equal([`/in?authToken=${secret}`]);
    await store.destroy();
  });
});
