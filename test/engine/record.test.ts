import { expect } from 'chai';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { bodiesInMemory } from '../../src/core/capture/capture';
import { InputError, PageError } from '../../src/core/capture/errors';
import { readHar } from '../../src/core/capture/har';
import { parseVisitor } from '../../src/core/load/visitors';
import { auditPage, type Audit } from '../../src/core/plan/audit';
import { readPage } from '../../src/core/source/page';
import { readHostMap } from '../../src/engine/net/hostMap';
import { browserSwitches } from '../../src/engine/record/chromium';
import { recordPages } from '../../src/engine/record/record';
import { mainThreadWork } from '../../src/engine/record/trace';
import { harFile, type HarPage } from '../../src/engine/record/writeHar';
import { PICTURE_CACHE, serveDemo, type DemoSite } from '../../demo/site/serve';

const www = (path: string) => `https://www.fernhollow.example${path}`;

describe('engine/record', () => {
  let site: DemoSite;
  let audits: Map<string, Audit>;
  const audit = (url: string): Audit => {
    const found = audits.get(url);
    if (!found) throw new Error(`no ${url}`);
    return found;
  };
  before(async function () {
    this.timeout(240_000);
    site = await serveDemo(PICTURE_CACHE);
    const urls = [
      'http://fernhollow.example/',
      www('/glasshouse/'),
      www('/plant-sale/'),
      www('/visit/'),
      www('/talks/'),
      www('/membership/'),
    ];
    const pages = await recordPages(urls, {
      tabMs: 0,
      visitor: parseVisitor('phone-busy'),
      mapHosts: site.map,
      acceptAnyCertificate: true,
      waitMs: 700,
    });
    const reads = readHar(new TextEncoder().encode(harFile(pages, 'test')));
    audits = new Map(
      reads.map(({ capture, bodies }) => [capture.page, auditPage(readPage(capture, bodiesInMemory(bodies)))]),
    );
  });
  after(() => site.close());

  it('writes bodies and every observation', () => {
    const { capture, bodies } = audit(www('/glasshouse/')).page;
    const seen = capture.observations;
    expect(capture.conditions).to.include({ screenWidth: 400, density: 2.5, touch: true, stated: true });
    expect(capture.measured.fcpMs).to.be.above(0);
    expect(capture.measured.lcpMs).to.be.at.least(capture.measured.fcpMs ?? 0);
    expect(seen?.largestPaints.at(-1)).to.include({
      tag: 'img',
      url: 'https://media.fernhollow.example/p/glasshouse-dawn.jpg',
    });
    const hero = seen?.pictures.find((p) => p.url.endsWith('glasshouse-dawn.jpg'));
    expect(hero).to.include({ naturalWidth: 2400, naturalHeight: 1560, visible: true });
    expect(seen?.pictures.filter((p) => p.url.includes('/menu-')).every((p) => !p.visible)).to.equal(true);
    const [map] = audit(www('/visit/')).page.capture.observations?.embedded ?? [];
    expect(map?.path).to.match(/iframe:nth-of-type\(1\)$/);
    expect(map?.box.width).to.be.above(100);
    for (const kind of ['script', 'parse', 'style', 'layout', 'paint'])
      expect(
        seen?.work?.map((w) => w.kind),
        kind,
      ).to.include(kind);
    expect(seen?.work?.some((w) => w.url?.endsWith('/js/kit.js') && w.phase === 'evaluate')).to.equal(true);
    expect(seen?.renderedHtml).to.contain('The glasshouse');
    const kit = capture.loads.find((l) => l.url.endsWith('/js/kit.js'));
    expect(kit).to.include({ kind: 'script', priority: 'High', renderBlocking: true, protocol: 'h2' });
    expect(kit && bodies.text(kit)?.length).to.be.above(100_000);
    expect(capture.loads.find((l) => l.url.endsWith('/css/print.css'))?.renderBlocking).to.equal(false);
    expect(capture.loads.find((l) => l.url.includes('/orchid-1.'))?.protocol).to.equal('h1');
  });

  it('keeps what each load took in the other runs', async function () {
    this.timeout(180_000);
    const pages = await recordPages([www('/membership/')], {
      tabMs: 0,
      visitor: parseVisitor('phone-busy'),
      mapHosts: site.map,
      acceptAnyCertificate: true,
      waitMs: 300,
      runs: 3,
    });
    const [read] = readHar(new TextEncoder().encode(harFile(pages, 'test')));
    const loads = read?.capture.loads ?? [];
    expect(loads.length).to.be.above(3);
    const [document] = loads;
    expect(document?.otherRuns).to.have.length(2);
    for (const run of document?.otherRuns ?? []) {
      expect(run.waitMs).to.be.above(0);
      expect(run.tlsMs).to.be.above(0);
      expect(run.connectMs).to.be.at.least(0);
    }
    expect(loads.filter((l) => l.otherRuns?.length === 2).length).to.be.above(loads.length / 2);
    // One run has no others.
    expect(audit(www('/membership/')).page.capture.loads[0]?.otherRuns).to.equal(undefined);
  });

  it('tells how much of each script ran, from one more load of which nothing else is kept', async function () {
    this.timeout(120_000);
    const [made] = await recordPages([www('/glasshouse/')], {
      tabMs: 0,
      visitor: parseVisitor('phone-busy'),
      mapHosts: site.map,
      acceptAnyCertificate: true,
      waitMs: 300,
      runs: 2,
    });
    const [read] = readHar(new TextEncoder().encode(harFile([made as HarPage], 'test')));
    if (!read) throw new Error('nothing was recorded');
    const { capture, bodies } = read;
    const once = audit(www('/glasshouse/')).page.capture;
    expect(capture.loads.map((l) => l.url)).to.have.members(once.loads.map((l) => l.url));
    expect(once.observations?.scripts).to.equal(undefined);
    const texts = bodiesInMemory(bodies);
    const files = capture.loads.filter((l) => l.kind === 'script' && l.status === 200);
    const scripts = capture.observations?.scripts ?? [];
    expect(scripts.map((s) => s.url)).to.have.members(files.map((l) => l.url));
    for (const { url, chars, ranChars } of scripts) {
      const load = files.find((l) => l.url === url);
      expect(chars, url).to.equal(load && texts.text(load)?.length);
      expect(ranChars, url).to.be.within(1, chars);
    }
    // A library of which the page calls little.
    const shares = auditPage(readPage(capture, texts)).usedShares;
    expect(shares.get(files.find((l) => l.url.endsWith('/js/kit.js'))?.url ?? '')).to.be.within(0.1, 0.8);
  });

  it('sees every redirect on the way in', () => {
    const { capture } = audit(www('/')).page;
    expect(capture.requested).to.equal('http://fernhollow.example/');
    expect(capture.loads.slice(0, 3).map((l) => [l.status, l.redirectTo])).to.deep.equal([
      [302, 'http://www.fernhollow.example/'],
      [302, www('/')],
      [200, undefined],
    ]);
  });

  it('marks what the browser refuses as mixed content, and what it upgrades', () => {
    const { capture } = audit(www('/visit/')).page;
    const refused = capture.loads.filter((l) => l.mixedBlocked).map((l) => new URL(l.url).pathname);
    // A refused frame never becomes a request: only the markup shows it.
    expect(refused).to.deep.equal(['/css/plaque.css']);
    const home = audit(www('/')).page.capture;
    expect(home.loads.find((l) => l.url.endsWith('/leaf-1.jpg'))?.url).to.match(/^https:/);
  });

  it('lets the checks find every planted fault of these pages', () => {
    const checks = (path: string) =>
      audit(www(path)).findings.map((f) => `${f.check} ${f.target.split('/').at(-1) || f.target.split('/').at(-2)}`);
    expect(checks('/')).to.include.members([
      'http-entrance fernhollow.example',
      'mixed-markup leaf-1.jpg',
      'hero-lazy home-border.jpg',
      'hero-late home-border.jpg',
      'script-blocking kit.js',
      'script-blocking count.js',
      'style-blocking frame.css',
      'style-blocking site.css',
      'text-uncompressed kit.js',
    ]);
    expect(checks('/glasshouse/')).to.include.members([
      'hero-lazy glasshouse-dawn.jpg',
      'hero-late glasshouse-dawn.jpg',
      'image-oversized glasshouse-dawn.jpg',
      'offscreen-eager *',
    ]);
    expect(checks('/plant-sale/')).to.include.members(['hero-lazy plant-sale-tables.jpg', 'http-mention plant-sale']);
    expect(checks('/visit/')).to.include.members(['mixed-markup plaque.css', 'mixed-markup widget', 'mixed-form find']);
    expect(checks('/talks/')).to.include.members(['mixed-markup lanes.js']);
  });

  it('leaves the clean page alone but for the footer that every page has', () => {
    const others = audit(www('/membership/')).findings.filter((f) => f.check !== 'http-mention' && f.harm !== 'tidy');
    expect(others).to.deep.equal([]);
  });

  it('keeps what a page that never settles has loaded, and says so', async () => {
    const server = http.createServer((request, response) => {
      response.setHeader('content-type', 'text/html');
      // The picture never ends.
      if (request.url === '/') response.end('<!doctype html><h1>Slow garden</h1><img src="/endless.jpg">');
      else response.writeHead(200, { 'content-type': 'image/jpeg' }).write('x');
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    const { port } = server.address() as AddressInfo;
    const [page] = await recordPages([`http://127.0.0.1:${port}/`], {
      tabMs: 0,
      visitor: parseVisitor('desktop'),
      allowPrivate: true,
      timeoutMs: 2500,
      waitMs: 300,
    });
    server.closeAllConnections();
    server.close();
    expect(page?.notes.join(' ')).to.match(/had not finished loading after 3 s/);
    const [read] = readHar(new TextEncoder().encode(harFile(page ? [page] : [], 'test')));
    expect(read?.capture.observations?.largestPaints.at(-1)?.tag).to.equal('h1');
  });

  it('says what is wrong with pages that cannot be opened', async () => {
    const fails = async (url: string, options: object = {}) =>
      recordPages([url], { tabMs: 0, visitor: parseVisitor('desktop'), timeoutMs: 8000, ...options }).then(
        () => expect.fail('recorded'),
        (e: unknown) => e as InputError,
      );
    const refused = await fails('http://127.0.0.1:9/', { allowPrivate: true });
    expect(refused).to.be.instanceOf(PageError);
    const certificate = await fails(www('/'), { mapHosts: site.map });
    expect(certificate.next).to.match(/--accept-any-certificate/);
    expect((await fails('http://127.0.0.1/')).what).to.match(/private address/);
    expect((await fails('garden')).what).to.match(/not a web address/);
    expect((await fails('file:///etc/hosts')).what).to.match(/not a web address/);
  });

  it('reads address maps', () => {
    const rules = (...lines: string[]) => browserSwitches(lines).find((s) => s.startsWith('--host-resolver-rules='));
    expect(rules('www.a.example=10.77.1.1')).to.match(/=MAP www.a.example 10.77.1.1$/);
    expect(rules('www.a.example:443=[::1]:8443')).to.match(/=MAP www.a.example:443 \[::1\]:8443$/);
    expect(() => readHostMap('nonsense')).to.throw(InputError);
    expect(() => readHostMap('a=b,MAP * evil')).to.throw(InputError);
  });

  it('takes self time out of nested trace events', () => {
    const main = { ph: 'M', name: 'thread_name', pid: 1, tid: 1, ts: 0, args: { name: 'CrRendererMain' } };
    const x = (name: string, ts: number, dur: number, url?: string) => ({
      ph: 'X',
      name,
      pid: 1,
      tid: 1,
      ts: ts * 1000,
      dur: dur * 1000,
      args: url ? { data: { url } } : {},
    });
    const work = mainThreadWork(
      [
        main,
        x('ParseHTML', 10, 20),
        x('EvaluateScript', 12, 10, 'https://a.example/s.js'),
        x('Layout', 15, 4),
        x('FunctionCall', 40, 5, 'https://a.example/s.js'),
      ],
      0,
    );
    expect(work.map((w) => [w.kind, w.durationMs, w.phase])).to.deep.equal([
      ['parse', 10, undefined],
      ['script', 6, 'evaluate'],
      ['layout', 4, undefined],
      ['script', 5, 'later'],
    ]);
  });

  it('says which timer set work off, when that was set, and for how long', () => {
    const x = (name: string, ts: number, dur: number, data: object) => ({
      name,
      ph: 'X',
      pid: 1,
      tid: 1,
      ts: ts * 1000,
      dur: dur * 1000,
      args: { data },
    });
    const set = (name: string, ts: number, data: object) => ({ ...x(name, ts, 0, data), ph: 'I', dur: undefined });
    const url = 'https://a.example/s.js';
    const work = mainThreadWork(
      [
        { ph: 'M', name: 'thread_name', ts: 0, pid: 1, tid: 1, args: { name: 'CrRendererMain' } },
        x('EvaluateScript', 10, 20, { url }),
        set('TimerInstall', 15, { timerId: 1, frame: 'A', timeout: 300, singleShot: true }),
        set('TimerInstall', 16, { timerId: 2, frame: 'A', timeout: 100, singleShot: false }),
        set('TimerInstall', 17, { timerId: 1, frame: 'B', timeout: 5, singleShot: true }),
        set('RequestIdleCallback', 18, { id: 1, frame: 'A', timeout: 2000 }),
        x('FireIdleCallback', 60, 4, { id: 1, frame: 'A' }),
        x('FunctionCall', 60, 3, { url }),
        x('TimerFire', 218, 2, { timerId: 2, frame: 'A' }),
        x('TimerFire', 320, 9, { timerId: 1, frame: 'A' }),
        x('FunctionCall', 321, 8, { url }),
        x('TimerFire', 400, 1, { timerId: 7, frame: 'A' }),
      ],
      0,
    );
    expect(work.map((w) => [w.startMs, w.timer])).to.deep.equal([
      [10, undefined],
      [60, { setMs: 18, delayMs: 0 }],
      [218, { setMs: 16, delayMs: 200 }],
      [320, { setMs: 15, delayMs: 300 }],
      [321, { setMs: 15, delayMs: 300 }],
      [400, undefined],
    ]);
  });

  it('counts processor time where it is known, not what other programs did meanwhile', () => {
    const event = (ph: string, name: string, ts: number, more: object) => ({ ph, name, pid: 1, tid: 1, ts, ...more });
    const work = mainThreadWork(
      [
        event('M', 'thread_name', 0, { args: { name: 'CrRendererMain' } }),
        event('X', 'ParseHTML', 10_000, { dur: 40_000, tdur: 9_000 }),
        event('X', 'EvaluateScript', 12_000, {
          dur: 20_000,
          tdur: 5_000,
          args: { data: { url: 'https://a.example/s.js' } },
        }),
        event('B', 'Layout', 60_000, { tts: 1_000 }),
        event('E', 'Layout', 90_000, { tts: 4_000 }),
      ],
      0,
    );
    expect(work.map((w) => [w.kind, w.startMs, w.durationMs])).to.deep.equal([
      ['parse', 10, 4],
      ['script', 12, 5],
      ['layout', 60, 3],
    ]);
    expect(
      work.map((w) => w.untilMs),
      'when it ended by the clock',
    ).to.deep.equal([50, 32, 90]);
  });
});
