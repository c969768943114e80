import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { bodiesInMemory } from '../../../src/core/capture/capture';
import { InputError } from '../../../src/core/capture/errors';
import { readHar } from '../../../src/core/capture/har';
import { simulate } from '../../../src/core/load/simulate';
import { VISITORS } from '../../../src/core/load/visitors';
import { auditPage } from '../../../src/core/plan/audit';
import { forecast } from '../../../src/core/plan/forecast';
import { readPage } from '../../../src/core/source/page';
import { SOURCES } from '../../../bench/truth/hostile';
import { SITUATIONS } from '../../fixtures/pages/serve';
import { listSituations } from '../../fixtures/pages/situations';
import { bytesOf, har, PAGE, PHONE, type MadeLoad } from '../../fixtures/har';

const phone = VISITORS[0] as (typeof VISITORS)[number];

/** Everything that happens to a file, end to end; only InputError may come out of it. */
function throughAll(bytes: Uint8Array): number {
  let audits = 0;
  let reads;
  try {
    reads = readHar(bytes, 'hostile.har');
  } catch (error) {
    if (error instanceof InputError) {
      expect(error.what).not.to.equal('');
      expect(error.where).not.to.equal('');
      return 0;
    }
    throw error;
  }
  for (const { capture, bodies } of reads) {
    const audit = auditPage(readPage(capture, bodiesInMemory(bodies)));
    const replay = simulate(audit.graph, phone);
    // Layout shift is known only where it was recorded.
    for (const [name, value] of Object.entries(replay.milestones))
      expect(Number.isFinite(value) || (name === 'cls' && value === undefined)).to.equal(true);
    for (const step of replay.path) expect(Number.isFinite(step.toMs)).to.equal(true);
    forecast(audit.graph, audit.fixes.slice(0, 3), phone);
    audits++;
  }
  return audits;
}

const HTML = `<!doctype html><html><head><link rel=stylesheet href=/s.css><script src=/j.js></script></head><body>
<img src=/a.jpg loading=lazy><img data-src=/b.jpg class=lazy><div style="background:url(http://x.example/c.jpg)">x</div>
<script>var a = document.querySelector('.lazy').dataset.src</script></body></html>`;
const LOADS: readonly MadeLoad[] = [
  { url: PAGE, body: HTML },
  { url: PAGE + 's.css', body: '@import "t.css"; p{background:url(/d.jpg)}', start: 30 },
  { url: PAGE + 't.css', body: '@import "s.css";', start: 60 },
  { url: PAGE + 'j.js', body: 'fetch("/data.json")', start: 31 },
  { url: PAGE + 'a.jpg', bytes: 30_000, start: 90 },
  { url: PAGE + 'b.jpg', bytes: 90_000, start: 200 },
  { url: PAGE + 'data.json', body: '{}', mime: 'application/json', start: 120 },
];
const FILE = har(LOADS, { hero: { timeMs: 300, size: 9, tag: 'img', url: PAGE + 'b.jpg' } });

describe('hostile and broken files', () => {
  it('are either read to the end or refused with a reason: any JSON', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        throughAll(bytesOf(value));
        throughAll(bytesOf({ log: value }));
        throughAll(bytesOf({ log: { entries: value } }));
      }),
      { numRuns: 150 },
    );
  });

  it('any bytes at all', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 400 }), (bytes) => void throughAll(bytes)));
  });

  it('a real file with one value replaced anywhere', () => {
    const paths: (string | number)[][] = [];
    const walk = (value: unknown, path: (string | number)[]) => {
      paths.push(path);
      if (value && typeof value === 'object')
        for (const key of Object.keys(value)) walk((value as Record<string, unknown>)[key], [...path, key]);
    };
    walk(FILE, []);
    const strange = fc.constantFrom<unknown>(
      null,
      '',
      0,
      -1,
      1e308,
      true,
      [],
      {},
      'x',
      'http://[',
      '\u0000',
      -99999,
      '2026-13-99',
      NaN,
    );
    fc.assert(
      fc.property(fc.constantFrom(...paths.filter((p) => p.length > 1)), strange, (path, value) => {
        const copy = structuredClone(FILE) as Record<string | number, never>;
        let at = copy as Record<string | number, unknown>;
        for (const key of path.slice(0, -1)) at = at[key] as Record<string | number, unknown>;
        at[path.at(-1) as string] = value;
        throughAll(bytesOf(copy));
      }),
      { numRuns: 400 },
    );
  });

  it('a real file cut short anywhere', () => {
    const bytes = bytesOf(FILE);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: bytes.length - 1 }),
        (n) => void expect(throughAll(bytes.subarray(0, n))).to.equal(0),
      ),
      { numRuns: 60 },
    );
  });

  it('markup and styles with pieces in any order', () => {
    const piece = fc.constantFrom(
      '<img src="',
      'http://a.example/x.jpg',
      '" loading=lazy>',
      '<script src=/j.js>',
      '</script>',
      '<style>@import url(',
      ')',
      '</style>',
      '<!--',
      '-->',
      '<template>',
      '<base href="',
      '//b.example/',
      '">',
      '<svg><image href=',
      '<picture><source srcset="a 1x,,b 2w',
      '\u0000',
      '<noscript>',
      '<link rel=stylesheet href=/s.css>',
      '&quot;',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), fc.array(piece, { maxLength: 10 }), (html, css) => {
        throughAll(
          bytesOf(
            har(
              [
                { url: PAGE, body: html.join('') || ' ' },
                { url: PAGE + 's.css', body: css.join(''), start: 20 },
                { url: PAGE + 'j.js', body: html.join(''), start: 21 },
              ],
              {},
            ),
          ),
        );
      }),
      { numRuns: 150 },
    );
  });

  it('sizes and times beyond belief', () => {
    const with1 = (
      change: (entry: {
        time: number;
        timings: { wait: number };
        response: { bodySize: number; content: { size: number } };
      }) => void,
    ) => {
      const file = structuredClone(FILE) as { log: { entries: never[] } };
      change(file.log.entries[5] as never);
      return bytesOf(file);
    };
    expect(throughAll(with1((e) => (e.response.bodySize = 9e11)))).to.equal(1);
    expect(throughAll(with1((e) => (e.response.content.size = 9e11)))).to.equal(1);
    expect(throughAll(with1((e) => (e.timings.wait = 9e11)))).to.equal(1);
    expect(() => readHar(with1((e) => (e.response.bodySize = 1e300)))).to.throw(InputError, /believable size/);
    const slow = structuredClone(FILE) as { log: { pages: { _lens: { observations: { work: object[] } } }[] } };
    slow.log.pages[0]?._lens.observations.work.push({ kind: 'parse', startMs: 5, durationMs: 9e11 });
    expect(throughAll(bytesOf(slow))).to.equal(1);
  });

  it('redirects in a circle and stylesheets that import each other end', () => {
    const circle = har([
      { url: PAGE, body: '<link rel=stylesheet href=/a.css><img src=/r1>' },
      { url: PAGE + 'r1', status: 302, redirectURL: PAGE + 'r2', mime: 'image/jpeg', start: 20 },
      { url: PAGE + 'r2', status: 302, redirectURL: PAGE + 'r1', mime: 'image/jpeg', start: 30 },
      { url: PAGE + 'r1', status: 302, redirectURL: PAGE + 'r2', mime: 'image/jpeg', start: 40 },
      { url: PAGE + 'a.css', body: '@import "b.css"', start: 21 },
      { url: PAGE + 'b.css', body: '@import "a.css"', start: 50 },
    ]);
    expect(throughAll(bytesOf(circle))).to.equal(1);
  });

  it('observations that make no sense', () => {
    const file = har(LOADS, {}) as { log: { pages: { _lens: Record<string, unknown> }[] } };
    const lens = file.log.pages[0]?._lens ?? {};
    for (const conditions of [
      { ...PHONE, cpuFactor: 0 },
      { ...PHONE, rttMs: 0, downKbps: 0 },
      { ...PHONE, density: 0 },
    ]) {
      lens.conditions = conditions;
      expect(throughAll(bytesOf(file))).to.equal(1);
    }
    lens.conditions = { ...PHONE, rttMs: -5 };
    expect(() => readHar(bytesOf(file))).to.throw(InputError, /"rttMs" should be a number from 0 up/);
    lens.conditions = PHONE;
    lens.observations = { pictures: [{ url: PAGE, use: 'poster-ish' }] };
    expect(() => readHar(bytesOf(file))).to.throw(InputError, /observations\.pictures\[0\]\.use/);
  });

  it('a page of 20,000 elements, and one of deep nesting, in good time', () => {
    const wide = `<body>${'<p class=x>a<a href=/b>b</a></p>'.repeat(10_000)}`;
    const deep = `<body>${'<div><b>'.repeat(8_000)}x`;
    for (const html of [wide, deep]) expect(throughAll(bytesOf(har([{ url: PAGE, body: html }], {})))).to.equal(1);
  });

  it('survive any mutation of real pages and their stylesheets', () => {
    const pages = listSituations().map((s) => fs.readFileSync(path.join(SITUATIONS, `${s.name}.html`), 'utf8'));
    const sheets = ['base.css', 'font-block.css', 'animation.css', 'chain.css'].map((f) =>
      fs.readFileSync(path.join(SITUATIONS, 'assets', f), 'utf8'),
    );
    const cut = fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.nat(40), fc.string({ maxLength: 12 }));
    fc.assert(
      fc.property(fc.nat(), fc.nat(), fc.array(cut, { maxLength: 6 }), (a, b, cuts) => {
        const mutate = (text: string) =>
          cuts.reduce((t, [at, n, put]) => {
            const i = Math.floor(at * t.length);
            return t.slice(0, i) + put + t.slice(i + n);
          }, text);
        const html = mutate(pages[a % pages.length] as string);
        const css = mutate(sheets[b % sheets.length] as string);
        const value = har(
          [
            { url: PAGE, body: html },
            { url: PAGE + 'base.css', body: css, start: 20 },
            { url: PAGE + 'i/800x500.40.jpg', bytes: 40_000, start: 30 },
          ],
          a % 2 ? { hero: { timeMs: 300, size: 9, tag: 'img', url: PAGE + 'i/800x500.40.jpg' } } : undefined,
        );
        expect(throughAll(bytesOf(value))).to.equal(1);
      }),
      { numRuns: 120 },
    );
  });

  for (const source of SOURCES)
    it(`are examined to the end: ${source.name}, a tenth of it`, () => {
      const tenth = (text: string) => text.slice(0, Math.ceil(text.length / 10));
      const value = har([
        { url: PAGE, body: tenth(source.html()) },
        { url: PAGE + 's.css', body: tenth(source.css?.() ?? 'p{}'), start: 20 },
      ]);
      expect(throughAll(bytesOf(value))).to.equal(1);
    });
});

describe('core/capture/har: long and strange texts', () => {
  const read = (loads: Parameters<typeof har>[0]) => readHar(bytesOf(har(loads)), 'strange.har');
  const long = 'x'.repeat(20_000);

  it('reads an address, a header and a title of 20 kB as what they are', () => {
    const [capture] = read([
      { url: PAGE, body: `<!doctype html><title>${long}</title>`, headers: { 'x-long': `a ${long}` } },
      { url: `${PAGE}a.js?v=${'9,'.repeat(10_000)}`, body: 'let x' },
    ]);
    const text = JSON.stringify(capture?.capture);
    expect(text).not.to.contain('@long');
    expect(capture?.capture.loads[0]?.responseHeaders.find((h) => h.name === 'x-long')?.value).to.equal(`a ${long}`);
    expect(capture?.capture.loads[1]?.url.length).to.be.above(20_000);
  });

  it('does not take a text of the file for a key of its own', () => {
    const [capture] = read([
      { url: PAGE, body: long },
      { url: `${PAGE}a.js`, body: '@long:0' },
    ]);
    expect(Buffer.from(capture?.bodies.get(1) ?? []).toString()).to.equal('@long:0');
  });

  it('leaves out what stands in an address itself', () => {
    const [capture] = read([{ url: PAGE, body: 'x' }, { url: `data:image/png;base64,${long}` }]);
    expect(capture?.capture.loads).to.have.length(1);
  });

  it('keeps a page whose screenshot is none, and says so', () => {
    const file = har([{ url: PAGE, body: 'x' }], {}) as { log: { pages: { _lens: { screenshot?: string } }[] } };
    for (const page of file.log.pages) page._lens.screenshot = '*** no base64 ***';
    const [capture] = readHar(bytesOf(file), 'strange.har');
    expect(capture?.screenshot).to.equal(undefined);
    expect(capture?.capture.notes.join()).to.match(/screenshot.*left out/);
  });

  for (const url of ['javascript:alert(1)', 'file:///etc/passwd', 'chrome://settings/'])
    it(`refuses ${url} as a page, with its place`, () => {
      expect(() => read([{ url, body: '<!doctype html>', mime: 'text/html' }])).to.throw(InputError);
    });

  it('does not look for properties in the prototype', () => {
    const file = JSON.stringify(har([{ url: PAGE, body: 'x' }])).replace('"log":', '"__proto__":{"log":1},"log":');
    expect(readHar(Buffer.from(file))).to.have.length(1);
    expect(() => readHar(Buffer.from('{"__proto__":{"log":{"entries":[]}}}'))).to.throw(InputError, /log/);
  });

  it('says where a long text is no JSON', () => {
    const file = JSON.stringify(har([{ url: PAGE, body: long }])).replace('xxxxxx', 'x\\qxxxx');
    expect(() => readHar(Buffer.from(file), 'bad.har')).to.throw(InputError, /line 1, byte \d+/);
  });
});
