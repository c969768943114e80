import { expect } from 'chai';
import path from 'node:path';
import { PageError } from '../../src/core/capture/errors';
import { readHar, type ReadCapture } from '../../src/core/capture/har';
import { parseVisitor } from '../../src/core/load/visitors';
import { defaultSettings } from '../../src/core/site/settings';
import { recordPages } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { importHar } from '../../src/engine/services/importHar';
import { leadsByScript } from '../../src/engine/store/captures';
import { addSite } from '../../src/engine/store/sites';
import { openStore } from '../../src/engine/store/store';
import { addSweep } from '../../src/engine/store/sweeps';
import { listen } from '../fixtures/listen';
import { tempFolder } from '../fixtures/temp';

const SITE = 'http://www.fernhollow.example';
const END = '<!doctype html><title>The new garden</title><link rel=stylesheet href="/new.css"><h1>New garden</h1>';

describe('engine/record: pages that lead on by themselves', () => {
  let server: Awaited<ReturnType<typeof listen>>;
  before(async () => {
    server = await listen({
      '/at-once': `<!doctype html><title>Old</title><script>location.replace('/new?from=at-once')</script>`,
      '/later': `<!doctype html><title>Old</title><link rel=stylesheet href="/old.css"><h1>Moved</h1>
<script>onload = () => fetch('/counted').finally(() => location.assign('/new'))</script>`,
      '/refresh': `<!doctype html><title>Old</title><meta http-equiv=refresh content="0; url=/new">`,
      '/form': `<!doctype html><title>Old</title><form action="/new" method=get></form>
<script>document.forms[0].submit()</script>`,
      '/twice': `<!doctype html><title>Old</title><script>location.replace('/at-once')</script>`,
      '/moved': (_, response) => response.writeHead(301, { location: '/new' }).end(),
      '/by-redirect': `<!doctype html><title>Old</title><script>location.href = '/moved'</script>`,
      '/file': `<!doctype html><title>Prices</title><h1>Prices</h1><script>location.href = '/prices.csv'</script>`,
      '/prices.csv': (_, response) =>
        response
          .writeHead(200, { 'content-type': 'text/csv', 'content-disposition': 'attachment; filename=prices.csv' })
          .end('fern;4'),
      '/astray': `<!doctype html><title>Old</title><script>location.replace('http://gone.fernhollow.example/')</script>`,
      '/nothing': `<!doctype html><title>Stays</title><h1>Stays</h1><script>location.href = '/204'</script>`,
      '/204': (_, response) => response.writeHead(204).end(),
      '/new': END,
    });
  });
  after(() => server.close());

  const recordFile = async (path: string, timeoutMs = 20_000): Promise<string> => {
    const pages = await recordPages([SITE + path], {
      tabMs: 0,
      visitor: parseVisitor('desktop'),
      mapHosts: [`www.fernhollow.example=127.0.0.1:${server.port}`],
      waitMs: 500,
      timeoutMs,
    });
    return harFile(pages, 'test');
  };
  const record = async (path: string, timeoutMs?: number): Promise<ReadCapture> => {
    const reads = readHar(Buffer.from(await recordFile(path, timeoutMs)));
    expect(reads).to.have.length(1);
    return reads[0] as ReadCapture;
  };
  const ways = ({ capture }: ReadCapture) => capture.ledHere?.map((w) => `${w.url.slice(SITE.length)} by ${w.by}`);
  const paths = ({ capture }: ReadCapture) =>
    capture.loads.map((l) => l.url.slice(SITE.length)).filter((p) => p !== '/favicon.ico');

  for (const [path, by, end] of [
    ['/at-once', 'script', '/new?from=at-once'],
    ['/later', 'script', '/new'],
    ['/refresh', 'refresh', '/new'],
    ['/form', 'form', '/new?'],
  ] as const)
    it(`records the page at the end of ${path}, with the way there`, async () => {
      const read = await record(path);
      expect(paths(read)).to.deep.equal([end, '/new.css']);
      expect(read.capture.title).to.equal('The new garden');
      // Times begin with this page, however busy the machine is: its document comes before its stylesheet.
      expect(read.capture.loads[0]?.startMs).to.be.within(-1, read.capture.loads[1]?.startMs ?? 0);
      expect(read.bodies.size).to.be.above(0);
      expect(ways(read)).to.deep.equal([`${path} by ${by}`]);
      expect(read.capture.ledHere?.[0]?.ms).to.be.above(0);
      expect(read.capture.notes.join(' ')).to.contain(`${SITE}${path} was opened first and led here by a`);
      expect(read.capture.observations?.renderedHtml).to.contain('New garden');
    });

  it('keeps every page on the way, and HTTP redirects as loads', async () => {
    expect(ways(await record('/twice'))).to.deep.equal(['/twice by script', '/at-once by script']);
    const read = await record('/by-redirect');
    expect(ways(read)).to.deep.equal(['/by-redirect by script']);
    expect(paths(read)).to.deep.equal(['/moved', '/new', '/new.css']);
    expect(read.capture.requested).to.equal(`${SITE}/moved`);
  });

  it('tells probes where scripts of a sweep lead', async () => {
    const data = tempFolder('leading');
    const store = await openStore(path.join(data.folder, 'keen-lens.db'));
    try {
      const { id: siteId } = await addSite(store, 'Fernhollow', `${SITE}/`);
      const sweepId = await addSweep(store, siteId, defaultSettings(`${SITE}/`));
      for (const from of ['/twice', '/refresh'])
        await importHar(store, Buffer.from(await recordFile(from)), 'a test', { siteId, sweepId });
      expect([...(await leadsByScript(store, sweepId))]).to.deep.equal([
        [`${SITE}/twice`, `${SITE}/at-once`],
        [`${SITE}/at-once`, `${SITE}/new?from=at-once`],
      ]);
    } finally {
      await store.destroy();
      data.remove();
    }
  });

  it('says where a page leads when that cannot be opened', async () => {
    const error: unknown = await record('/astray').catch((e: unknown) => e);
    expect(error).to.be.instanceOf(PageError);
    expect(String(error)).to.match(/leads on to http:\/\/gone\.fernhollow\.example\/.*could not be opened: ERR_/);
  });

  it('stays with the page where what it asks for is no page', async () => {
    for (const path of ['/file', '/nothing']) {
      const read = await record(path);
      expect(read.capture.page).to.equal(SITE + path);
      expect(ways(read)).to.equal(undefined);
      // It is not waited for: a load event never comes.
      expect(read.capture.notes.join(' ')).to.contain('asked for an address that answers with no page');
      expect(read.capture.notes.join(' ')).not.to.contain('had not finished loading');
      expect(read.capture.observations?.renderedHtml).to.match(/<h1>/);
    }
  });
});
