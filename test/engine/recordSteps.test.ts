import { expect } from 'chai';
import { VISITORS, type Visitor } from '../../src/core/load/visitors';
import type { Step } from '../../src/core/capture/steps';
import { PageError } from '../../src/core/capture/errors';
import { recordPages, type RecordOptions } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { VERSION } from '../../src/core/version';
import { listen } from '../fixtures/listen';

const FORM =
  '<!doctype html><title>Log in</title><form method="post" action="/in"><input id="password" name="password"><button>In</button></form>';
const MEMBERS =
  '<!doctype html><title>Members</title><h1>For members only</h1><script src="http://localhost:PORT/kit.js"></script><script>setTimeout(() => document.body.append(Object.assign(document.createElement("p"), { id: "late", textContent: "late" })), 2500)</script>';

describe('engine/record: steps before recording', function () {
  this.timeout(120_000);
  let site: Awaited<ReturnType<typeof listen>>;
  let posted = '';
  before(async () => {
    site = await listen({
      '/login/': FORM,
      '/in': (request, response) => {
        request.on('data', (c: Buffer) => (posted += c.toString()));
        request.on('end', () =>
          response.writeHead(303, { location: '/members/', 'set-cookie': 'member=yes; Path=/' }).end(),
        );
      },
      '/members/': (request, response) => {
        const known = /member=yes/.test(request.headers.cookie ?? '');
        response.writeHead(known ? 200 : 302, { 'content-type': 'text/html', ...(!known && { location: '/login/' }) });
        response.end(known ? MEMBERS.replace('PORT', String(site.port)) : '');
      },
      '/kit.js': 'window.kit = 1',
    });
  });
  after(() => site.close());
  const at = (path: string) => `http://127.0.0.1:${site.port}${path}`;
  const record = (more: Partial<RecordOptions>) =>
    recordPages([at('/members/')], {
      tabMs: 0,
      visitor: VISITORS[0] as Visitor,
      allowPrivate: true,
      runs: 1,
      waitMs: 200,
      ...more,
    });
  const steps = (button: string): Step[] => [
    { do: 'open', url: at('/login/') },
    { do: 'fill', selector: '#password', value: { env: 'GARDEN_PASSWORD' } },
    { do: 'click', selector: button },
    { do: 'wait', selector: 'h1' },
  ];

  it('logs in first, records what members see, and keeps the password out of it', async () => {
    process.env.GARDEN_PASSWORD = 'moss-and-fern-7';
    const pages = await record({ steps: steps('button'), waitFor: '#late', blockHosts: ['blocked.example'] });
    expect(posted).to.equal('password=moss-and-fern-7');
    expect(pages[0]?.finalUrl).to.equal(at('/members/'));
    const har = harFile(pages, VERSION);
    expect(har).to.contain('For members only').and.not.to.contain('moss-and-fern-7');
    expect(har).to.contain('id=\\"late\\"');
    expect(pages[0]?.notes.join(' ')).to.contain('Requests to blocked.example were blocked on wish.');
  });

  it('says which step could not be taken', async () => {
    const fault: unknown = await record({ steps: steps('button.missing') }).catch((e: unknown) => e);
    expect(fault).to.be.instanceOf(PageError);
    expect((fault as PageError).what).to.contain('Step 3 could not be taken');
    expect((fault as PageError).where).to.equal('click button.missing');
  });

  it('asks a blocked host for nothing', async () => {
    process.env.GARDEN_PASSWORD = 'moss-and-fern-7';
    const before = site.asked.filter((a) => a.path === '/kit.js').length;
    const pages = await record({ steps: steps('button'), blockHosts: ['localhost'] });
    expect(site.asked.filter((a) => a.path === '/kit.js').length).to.equal(before);
    expect(pages[0]?.requests).to.be.above(1);
  });
});
