import { expect } from 'chai';
import dgram from 'node:dgram';
import type { ReadCapture } from '../../src/core/capture/har';
import { readHar } from '../../src/core/capture/har';
import { parseVisitor } from '../../src/core/load/visitors';
import { recordPages, type RecordOptions } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { listen, type Answers } from '../fixtures/listen';

const SITE = 'http://www.fernhollow.example/';
const OTHER = 'http://growers.mossbank.example';
const SECRET = 'Fern4711Hollow';
const PASSWORD = 'Moss0815Bank';
describe('engine/record: borders', () => {
  const servers: { close(): Promise<void> }[] = [];
  const serve = async (answers: Answers) => {
    const server = await listen(answers);
    servers.push(server);
    return server;
  };
  afterEach(async () => {
    await Promise.all(servers.splice(0).map((s) => s.close()));
  });

  const record = async (
    url: string,
    mapHosts: readonly string[],
    more: Partial<RecordOptions> = {},
  ): Promise<{ read: ReadCapture; file: string }> => {
    const pages = await recordPages([url], {
      tabMs: 0,
      visitor: parseVisitor('desktop'),
      mapHosts,
      waitMs: 300,
      timeoutMs: 10_000,
      ...more,
    });
    const file = harFile(pages, 'test');
    const [read] = readHar(Buffer.from(file));
    if (!read) throw new Error('nothing was recorded');
    return { read, file };
  };

  it('sends headers and password to the site itself, and to nobody else', async () => {
    const parts = `<script src="${OTHER}/a.js"></script><link rel=stylesheet href="${OTHER}/a.css"><img src="${OTHER}/a.png">
<iframe src="${OTHER}/frame"></iframe><script src="/own.js"></script>
<script>fetch('${OTHER}/data'); fetch('${OTHER}/asks', { mode: 'no-cors' }); fetch('/own.json')</script>`;
    const site = await serve({
      '/': (request, response) => {
        const known = request.headers.authorization === `Basic ${Buffer.from(`fern:${PASSWORD}`).toString('base64')}`;
        response.writeHead(known ? 200 : 401, {
          'content-type': 'text/html',
          ...(known ? {} : { 'www-authenticate': 'Basic realm="garden"' }),
        });
        response.end(known ? `<!doctype html><title>Fern</title><p>${SECRET}${parts}` : 'who?');
      },
      '/own.js': '',
      '/own.json': '{}',
      '/moved.js': '',
    });
    const other = await serve({
      '/asks': (_, response) => response.writeHead(401, { 'www-authenticate': 'Basic realm="x"' }).end(),
    });
    const { read, file } = await record(
      SITE,
      [`www.fernhollow.example=127.0.0.1:${site.port}`, `growers.mossbank.example=127.0.0.1:${other.port}`],
      { headers: { 'X-Garden': SECRET }, basicAuth: { username: 'fern', password: PASSWORD } },
    );
    const own = site.asked.filter((a) => /^\/(own\..*)?$/.test(a.path));
    expect(own.map((a) => a.path)).to.include.members(['/', '/own.js', '/own.json']);
    for (const a of own) expect(a.headers['x-garden'], a.path).to.equal(SECRET);
    expect(other.asked.map((a) => a.path)).to.include.members([
      '/a.js',
      '/a.css',
      '/a.png',
      '/frame',
      '/data',
      '/asks',
    ]);
    expect(JSON.stringify(other.asked)).not.to.contain(SECRET);
    for (const a of other.asked) expect(a.headers.authorization, a.path).to.equal(undefined);
    expect(read.capture.title).to.equal('Fern');
    for (const text of [SECRET, PASSWORD, Buffer.from(`fern:${PASSWORD}`).toString('base64')])
      expect(file).not.to.contain(text);
  });

  it('tells no password to where the page is redirected', async () => {
    const site = await serve({
      '/': (_, response) => response.writeHead(302, { location: `${OTHER}/in` }).end(),
    });
    const other = await serve({
      '/in': (_, response) =>
        response
          .writeHead(401, { 'www-authenticate': 'Basic realm="garden"', 'content-type': 'text/html' })
          .end('who?'),
    });
    await record(
      SITE,
      [`www.fernhollow.example=127.0.0.1:${site.port}`, `growers.mossbank.example=127.0.0.1:${other.port}`],
      { headers: { 'X-Garden': SECRET }, basicAuth: { username: 'fern', password: PASSWORD } },
    );
    expect(site.asked[0]?.headers['x-garden']).to.equal(SECRET);
    expect(other.asked.length).to.be.above(0);
    for (const a of other.asked) {
      expect(a.headers['x-garden']).to.equal(undefined);
      expect(a.headers.authorization).to.equal(undefined);
    }
  });

  /** Ways in which a page may try to reach an address, by the path that is asked for then. */
  const ATTEMPTS: Readonly<Record<string, (to: string) => string>> = {
    img: (to) => `<img src="${to}/img">`,
    script: (to) => `<script src="${to}/script"></script>`,
    frame: (to) => `<iframe src="${to}/frame"></iframe>`,
    style: (to) => `<link rel=stylesheet href="${to}/style">`,
    prefetch: (to) => `<link rel=prefetch href="${to}/prefetch"><link rel=preconnect href="${to}">`,
    socket: (to) => `<script>new WebSocket('${to.replace('http', 'ws')}/socket')</script>`,
    events: (to) => `<script>new EventSource('${to}/events')</script>`,
    post: (to) => `<script>fetch('${to}/post', { method: 'POST', mode: 'no-cors', body: 'x' })</script>`,
    beacon: (to) => `<script>navigator.sendBeacon('${to}/beacon', 'x')</script>`,
    worker: (to) =>
      `<script>new Worker(URL.createObjectURL(new Blob(["fetch('${to}/worker', { mode: 'no-cors' })"])))</script>`,
    hop: (to) => `<img src="/redirect?to=${encodeURIComponent(to)}/hop">`,
    window: (to) => `<script>window.open('${to}/window')</script>`,
  };
  const reachedFrom = async (
    markup: (to: string) => string,
    names: readonly string[],
    more: Partial<RecordOptions>,
  ) => {
    const inner = await serve({ '/navigation': 'the inner page', '/refresh': 'the inner page' });
    const media = dgram.createSocket('udp4');
    const packets: unknown[] = [];
    media.on('message', (p) => packets.push(p));
    await new Promise<void>((done) => media.bind(0, '127.0.0.1', done));
    servers.push({ close: () => new Promise((done) => media.close(() => done())) });
    const site = await serve({
      '/': `<!doctype html><title>Fern</title><p>garden${names.map((n) => markup(`http://${n}:${inner.port}`)).join('\n')}
<script>const c = new RTCPeerConnection({ iceServers: [{ urls: 'stun:127.0.0.1:${media.address().port}' }] });
c.createDataChannel('x'); c.createOffer().then((o) => c.setLocalDescription(o))</script>`,
      '/redirect': (request, response) =>
        response.writeHead(302, { location: new URL(request.url ?? '', SITE).searchParams.get('to') ?? '' }).end(),
    });
    const { read } = await record(SITE, [`www.fernhollow.example=127.0.0.1:${site.port}`], more).catch(
      (error: unknown) => {
        // A page that goes there by itself may as well not be recorded.
        expect(String(error)).to.match(/private address|could not be opened|broke off/);
        return { read: undefined };
      },
    );
    expect(packets).to.deep.equal([]);
    return { asked: inner.asked, read };
  };
  const everyWay = (to: string) =>
    Object.values(ATTEMPTS)
      .map((a) => a(to))
      .join('\n');
  const THIS_MACHINE = ['127.0.0.1', 'localhost', '[::ffff:127.0.0.1]', '0.0.0.0', '2130706433'];

  it('does not let a page reach this machine by anything that it loads', async () => {
    const { asked, read } = await reachedFrom(everyWay, THIS_MACHINE, {});
    expect(asked).to.deep.equal([]);
    const refused = read?.capture.loads.filter((l) => l.error?.includes('private address')) ?? [];
    expect(refused.length).to.be.above(THIS_MACHINE.length);
  });

  it('lets it do all of that where private addresses are allowed', async () => {
    const { asked } = await reachedFrom(everyWay, ['127.0.0.1'], { allowPrivate: true });
    const paths = new Set(asked.map((a) => a.path.replace(/^ws /, '').slice(1)));
    expect([...Object.keys(ATTEMPTS)].filter((name) => !paths.has(name))).to.deep.equal([]);
  });

  const LEAVING: Readonly<Record<string, (to: string) => string>> = {
    'a form': (to) => `<form action="${to}/form" method=post></form><script>document.forms[0].submit()</script>`,
    'a script': (to) => `<script>location.href = '${to}/navigation'</script>`,
    'a meta refresh': (to) => `<meta http-equiv=refresh content="0;url=${to}/refresh">`,
  };
  for (const [what, markup] of Object.entries(LEAVING))
    it(`does not follow ${what} to this machine`, async () => {
      const { asked, read } = await reachedFrom(markup, ['localhost'], {});
      expect(asked).to.deep.equal([]);
      expect(JSON.stringify(read?.capture ?? {})).not.to.contain('the inner page');
    });

  it('refuses a name and an address that lead to this machine, before a browser starts', async () => {
    for (const url of ['http://127.0.0.1:1/', 'http://localhost:1/', 'http://[::ffff:7f00:1]:1/', 'http://[::1]:1/']) {
      const error = await record(url, []).catch((e: unknown) => e);
      expect(String(error), url).to.match(/leads to the private address/);
    }
  });

  it('does not record our own server, even where private addresses are allowed', async () => {
    const own = await serve({ '/': 'Keen Lens', '/api/sites': '[{"secret":1}]' });
    const options = { allowPrivate: true, ownPorts: [own.port] };
    const error = await record(`http://127.0.0.1:${own.port}/`, [], options).catch((e: unknown) => e);
    expect(String(error)).to.match(/leads to Keen Lens itself/);
    const site = await serve({
      '/': `<!doctype html><title>Fern</title><img src="http://127.0.0.1:${own.port}/x"><script>fetch('http://localhost:${own.port}/api/sites', { mode: 'no-cors' })</script>
<script>new WebSocket('ws://[::1]:${own.port}/s')</script>`,
    });
    await record(`http://127.0.0.1:${site.port}/`, [], options);
    expect(site.asked.length).to.be.above(0);
    expect(own.asked).to.deep.equal([]);
  });

  const HANGS: Readonly<Record<string, string>> = {
    'runs for ever from the start': '<p>Fern</p><script>for (;;);</script>',
    'runs for ever after it has loaded':
      '<p>Fern</p><script>onload = () => setTimeout(() => { for (;;); }, 50)</script>',
    'asks without end': '<p>Fern</p><script>onload = () => { for (;;) alert("still there?") }</script>',
  };
  for (const [what, markup] of Object.entries(HANGS))
    it(`keeps what came of a page that ${what}`, async function () {
      this.timeout(180_000);
      const site = await serve({ '/': `<!doctype html><title>Fern</title><img src="/a.png">${markup}`, '/a.png': '' });
      const { read } = await record(SITE, [`www.fernhollow.example=127.0.0.1:${site.port}`], {
        timeoutMs: 1500,
        answerMs: 1000,
      });
      expect(read.capture.page).to.equal(SITE);
      expect(read.capture.loads[0]?.status).to.equal(200);
      expect(read.capture.notes.join(' ')).to.match(/stopped answering|had not finished loading/);
    });

  it('is not misled by what a page does to the functions it looks with', async () => {
    const site = await serve({
      '/': `<!doctype html><title>Fern</title><form><input name=parentElement><p>garden</p><img name=images src="/a.svg" width=200 height=100></form><script>
document.querySelectorAll = Document.prototype.querySelectorAll = () => { throw new Error('broken') };
Element.prototype.getBoundingClientRect = null; window.__lensStore = { paints: [{ url: 'made up' }] };
performance.getEntriesByType = () => { throw 1 }; window.getComputedStyle = undefined; Array.prototype.push = () => 0;
for (let i = 0; i < 20; i++) window.open('/popup'); alert('hello'); confirm('really?');
const a = document.createElement('a'); a.href = 'data:application/zip,x'; a.download = 'x.zip'; a.click();
</script>`,
      '/a.svg': (_, response) =>
        response
          .writeHead(200, { 'content-type': 'image/svg+xml' })
          .end(
            '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100"><rect width="200" height="100"/></svg>',
          ),
      '/popup': '<title>popup</title>',
    });
    const { read } = await record(SITE, [`www.fernhollow.example=127.0.0.1:${site.port}`]);
    expect(read.capture.page).to.equal(SITE);
    expect(read.capture.observations?.pictures.map((p) => p.url)).to.deep.equal([`${SITE}a.svg`]);
    expect(read.capture.observations?.pictures[0]?.path).to.match(/form:nth-of-type\(1\)>img:nth-of-type\(1\)$/);
    expect(read.capture.observations?.firstScreen?.length).to.be.above(3);
    expect(JSON.stringify(read.capture.observations?.largestPaints)).not.to.contain('made up');
  });

  it('ends when it is stopped, whatever the page is doing', async () => {
    const stop = new AbortController();
    const site = await serve({
      '/': (_, response) => {
        response.writeHead(200, { 'content-type': 'text/html' });
        response.end('<!doctype html><title>Fern</title><img src="/hang"><script>for (;;);</script>');
      },
      '/hang': () => stop.abort(new Error('stopped by hand')),
    });
    const error = await record(SITE, [`www.fernhollow.example=127.0.0.1:${site.port}`], {
      signal: stop.signal,
      timeoutMs: 600_000,
    }).catch((e: unknown) => e);
    expect(String(error)).to.contain('stopped by hand');
  });
});
