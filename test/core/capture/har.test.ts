import { expect } from 'chai';
import { InputError } from '../../../src/core/capture/errors';
import { decodeBase64 } from '../../../src/core/capture/base64';
import { readHar } from '../../../src/core/capture/har';
import { bytesOf, entry, har, PAGE, STARTED } from '../../fixtures/har';

const html = '<!doctype html><title>x</title><p>hello';

function fault(value: unknown): InputError {
  try {
    readHar(value instanceof Uint8Array ? value : bytesOf(value), 'bad.har');
  } catch (error) {
    if (error instanceof InputError) return error;
    throw error;
  }
  throw new Error('nothing was wrong');
}

describe('core/capture/har', () => {
  it('reads page, loads, sizes and milestones', () => {
    const [read] = readHar(
      bytesOf(
        har([
          { url: PAGE, body: html },
          { url: PAGE + 'a.css', body: 'p{}', start: 30 },
        ]),
      ),
    );
    expect(read?.capture.page).to.equal(PAGE);
    expect(read?.capture.loads.map((l) => l.kind)).to.deep.equal(['document', 'style']);
    expect(read?.capture.loads[1]?.startMs).to.equal(30);
    expect(read?.capture.measured).to.include({ loadMs: 500, dclMs: 300, requests: 2 });
    expect(read?.capture.recordedAt).to.equal('2026-11-12T10:00:00.000Z');
    expect(new TextDecoder().decode(read?.bodies.get(0))).to.equal(html);
  });

  it('reads a file with next to nothing but what HAR 1.2 must have', () => {
    const [read] = readHar(
      bytesOf({
        log: {
          entries: [
            {
              startedDateTime: '2026-11-12T10:00:00Z',
              request: { url: PAGE },
              response: { content: { mimeType: 'text/html' }, status: 200 },
            },
          ],
        },
      }),
    );
    expect(read?.capture.loads).to.have.length(1);
    expect(read?.capture.notes.join(' ')).to.match(/page source is not in the file/);
    expect(read?.capture.conditions.stated).to.equal(false);
  });

  it('makes a capture of each page, and puts loads without a known page to the first', () => {
    const file = har([{ url: PAGE, body: html }]) as { log: { pages: object[]; entries: Record<string, unknown>[] } };
    file.log.pages.push({ id: 'page_2', startedDateTime: new Date(STARTED + 5000).toISOString(), title: 'Two' });
    file.log.entries.push(
      { ...entry({ url: PAGE + 'two/', body: html, start: 5000 }), pageref: 'page_2' },
      { ...entry({ url: PAGE + 'late.css', body: '', start: 80 }), pageref: 'nowhere' },
    );
    const reads = readHar(bytesOf(file));
    expect(reads.map((r) => r.capture.page)).to.deep.equal([PAGE, PAGE + 'two/']);
    expect(reads[0]?.capture.loads).to.have.length(2);
    expect(reads[1]?.capture.loads[0]?.startMs).to.equal(0);
  });

  it('reads negative times as 0 and says so; -1 means not applicable', () => {
    const one = entry({ url: PAGE, body: html });
    (one.timings as Record<string, number>).wait = -30;
    const file = har([]) as { log: { entries: unknown[] } };
    file.log.entries.push(one);
    const [read] = readHar(bytesOf(file));
    expect(read?.capture.loads[0]?.timings).to.include({ waitMs: 0 });
    expect(read?.capture.loads[0]?.timings.dnsMs).to.equal(undefined);
    expect(read?.capture.notes.join()).to.match(/1 loads had negative times/);
  });

  it('takes ssl out of connect, which HAR 1.2 includes', () => {
    const [read] = readHar(bytesOf(har([{ url: PAGE, body: html, connect: 90, ssl: 40 }])));
    expect(read?.capture.loads[0]?.timings).to.include({ connectMs: 50, tlsMs: 40 });
  });

  it('decodes base64 bodies, also with escaped slashes', () => {
    const bytes = Buffer.from([255, 239, 191, 0, 1, 2, 250]);
    const [read] = readHar(
      bytesOf(
        har([
          { url: PAGE, body: html },
          { url: PAGE + 'a.png', body: bytes },
        ]),
      ),
    );
    expect(Buffer.from(read?.bodies.get(1) ?? [])).to.deep.equal(bytes);
    const escaped = new TextEncoder().encode(bytes.toString('base64').replaceAll('/', '\\/'));
    expect(Buffer.from(decodeBase64(escaped))).to.deep.equal(bytes);
  });

  it('follows redirects to the page and keeps each hop', () => {
    const [read] = readHar(
      bytesOf(
        har([
          { url: 'http://fernhollow.example/', status: 301, redirectURL: PAGE },
          { url: PAGE, body: html, start: 40 },
        ]),
      ),
    );
    expect(read?.capture.requested).to.equal('http://fernhollow.example/');
    expect(read?.capture.page).to.equal(PAGE);
    expect(read?.capture.loads[0]?.redirectTo).to.equal(PAGE);
  });

  it('cuts cookies, authorization and token-like values, in bodies and redirects too', () => {
    const token = 'abcdef0123456789abcdef0123456789';
    const url = `${PAGE}a.js?access_token=${token}&v=3`;
    const text = JSON.stringify(
      readHar(
        bytesOf(
          har([
            {
              url: PAGE,
              body: `<script src="${url}"></script>`,
              requestHeaders: { Cookie: 'visit=oak-tree', Authorization: 'Bearer willow' },
              headers: { 'Set-Cookie': 'sid=hazel' },
            },
            { url, body: 'var a' },
            { url: PAGE + 'go', status: 302, redirectURL: `${PAGE}a?api_key=${token}`, mime: 'text/plain' },
          ]),
        ),
      ).map((r) => [r.capture, [...r.bodies.values()].map((b) => new TextDecoder().decode(b))]),
    );
    for (const secret of [token, 'oak-tree', 'willow', 'hazel']) expect(text).not.to.contain(secret);
    expect(text).to.contain('access_token=cut&v=3');
  });

  const faults: [string, unknown, RegExp, RegExp][] = [
    ['no log', {}, /"log" should be an object but is missing/, /^\$\.log$/],
    ['entries not a list', { log: { entries: 7 } }, /"entries" should be an array/, /^\$\.log\.entries$/],
    ['no entries', { log: { entries: [] } }, /holds no requests/, /entries/],
    [
      'a request without url',
      { log: { entries: [{ startedDateTime: '2026-01-01T00:00:00Z', request: {}, response: {} }] } },
      /"url"/,
      /entries\[0\]\.request\.url$/,
    ],
    [
      'a bad date',
      { log: { entries: [{ startedDateTime: 'yesterday', request: { url: PAGE }, response: {} }] } },
      /ISO 8601/,
      /entries\[0\]\.startedDateTime$/,
    ],
    [
      'a relative url',
      { log: { entries: [{ startedDateTime: '2026-01-01T00:00:00Z', request: { url: '/x' }, response: {} }] } },
      /not an absolute URL/,
      /request\.url$/,
    ],
    [
      'a status in words',
      {
        log: {
          entries: [{ startedDateTime: '2026-01-01T00:00:00Z', request: { url: PAGE }, response: { status: 'ok' } }],
        },
      },
      /"status" should be a number/,
      /response\.status$/,
    ],
    ['an unknown body encoding', withEncoding('rot13'), /Unknown body encoding/, /content\.encoding$/],
    ['a body that is not base64', withEncoding('base64', '***'), /says base64 but is not/, /content\.text$/],
    ['only files, no page', har([{ url: PAGE + 'a.css', body: 'p{}' }]), /No page document/, /entries\[0\]$/],
  ];
  for (const [name, value, what, where] of faults) {
    it(`says what is wrong and where: ${name}`, () => {
      const error = fault(value);
      expect(error.what).to.match(what);
      expect(error.where).to.match(where);
      expect(error.next).not.to.equal('');
    });
  }

  it('says so when the file is cut short or no JSON', () => {
    const whole = JSON.stringify(har([{ url: PAGE, body: html }]));
    expect(fault(new TextEncoder().encode(whole.slice(0, -40))).what).to.match(/ends in the middle/);
    expect(fault(new TextEncoder().encode('{oops}')).what).to.match(/Not valid JSON/);
  });
});

function withEncoding(encoding: string, text = 'x'): unknown {
  const one = entry({ url: PAGE, body: html });
  ((one.response as Record<string, unknown>).content as Record<string, unknown>).encoding = encoding;
  ((one.response as Record<string, unknown>).content as Record<string, unknown>).text = text;
  return { log: { entries: [one] } };
}

describe('core/capture/har: several page loads in one', () => {
  const page = (path: string, start: number, title: string, headers: Record<string, string> = {}) => ({
    url: PAGE + path,
    body: `<!doctype html><title>${title}</title>`,
    start,
    requestHeaders: headers,
  });
  const read = (value: unknown) =>
    readHar(bytesOf(value), 'test.har').map((r) => [r.capture.page, r.capture.title, r.capture.loads.length]);

  it('gives each document a capture of its own, titled by itself, where Fetch Metadata tells', () => {
    const navigation = { 'Sec-Fetch-Dest': 'document' };
    const value = har([
      page('', 0, 'Home', navigation),
      { url: PAGE + 'a.css', body: 'p{}', start: 20, requestHeaders: { 'Sec-Fetch-Dest': 'style' } },
      page('map', 40, 'A frame', { 'Sec-Fetch-Dest': 'iframe' }),
      { ...page('old', 90, '', navigation), status: 301, redirectURL: '/visit' },
      page('visit', 120, 'Visit &amp; stay', navigation),
      { url: PAGE + 'b.css', body: 'p{}', start: 140 },
    ]);
    expect(read(value)).to.deep.equal([
      [PAGE, 'Home', 3],
      [PAGE + 'visit', 'Visit & stay', 3],
    ]);
  });

  it('takes HTML after a pause for a new page where nothing tells, and a frame before it for a frame', () => {
    const value = har([page('', 0, 'Home'), page('map', 40, 'A frame'), page('visit', 5000, 'Visit')]);
    expect(read(value)).to.deep.equal([
      [PAGE, 'Home', 2],
      [PAGE + 'visit', 'Visit', 1],
    ]);
  });

  it('puts entries without a page to the page that had begun', () => {
    const value = har([page('', 0, 'Home'), page('visit', 3000, 'Visit')]) as {
      log: { pages: object[]; entries: object[] };
    };
    value.log.pages.push({
      id: 'page_2',
      title: 'Second',
      startedDateTime: new Date(STARTED + 2990).toISOString(),
      pageTimings: {},
    });
    for (const e of value.log.entries) delete (e as { pageref?: string }).pageref;
    expect(read(value)).to.deep.equal([
      [PAGE, 'Made up', 1],
      [PAGE + 'visit', 'Second', 1],
    ]);
  });
});
