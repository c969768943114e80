import { expect } from 'chai';
import fc from 'fast-check';
import { isFingerprinted } from '../../../src/core/checks/weight/cacheShort';
import { cachePolicy } from '../../../src/core/source/cachePolicy';
import { fontKind } from '../../../src/core/checks/weight/fontFormat';
import { statedLibrary } from '../../../src/core/checks/weight/libraryTwice';
import { gifFrames } from '../../../src/core/checks/weight/pictureFormat';
import { readingOnly } from '../../../src/core/checks/weight/textUnminified';
import { auditOf, PAGE, type MadeLoad } from '../../fixtures/har';

const body = (inner: string, head = '') =>
  `<!doctype html>\n<html><head><title>x</title>${head}</head>\n<body>\n${inner}\n</body></html>`;
const found = (check: string, html: string, loads: readonly MadeLoad[] = []) =>
  auditOf(html, loads).findings.filter((f) => f.check === check);
const css = (name: string, text: string, headers: Record<string, string> = {}): MadeLoad => ({
  url: PAGE + name,
  body: text,
  headers,
  start: 30,
});

/** A GIF of so many frames, each of one block of data. */
const gif = (frames: number, size = 0): Buffer => {
  const head = Buffer.from('GIF89a\x01\x00\x01\x00\x80\x00\x00\xff\xff\xff\x00\x00\x00', 'latin1');
  const frame = Buffer.from(
    '\x21\xf9\x04\x00\x0a\x00\x00\x00\x2c\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02\x44\x01\x00',
    'latin1',
  );
  return Buffer.concat([head, ...Array.from({ length: frames }, () => frame), Buffer.from([0x3b]), Buffer.alloc(size)]);
};

describe('checks of files', () => {
  describe('load-failed', () => {
    it('finds what is asked for in vain, with its place, and not what came', () => {
      const list = found('load-failed', body('<img src="/gone.jpg"><img src="/here.jpg">'), [
        { url: PAGE + 'gone.jpg', status: 404 },
        { url: PAGE + 'here.jpg', bytes: 900 },
      ]);
      expect(list.map((f) => [f.target, f.harm, f.evidence.source?.line])).to.deep.equal([
        [PAGE + 'gone.jpg', 'broken', 4],
      ]);
      expect(list[0]?.title).to.match(/fails to load: 404/);
    });
    it('leaves requests alone that the page gave up', () => {
      const lens = (error: string) => ({ url: PAGE + 'a.js', status: 0, lens: { error } });
      expect(found('load-failed', body('<p>x'), [lens('net::ERR_ABORTED')])).to.deep.equal([]);
    });
  });

  describe('cache-short', () => {
    const policy = (headers: Record<string, string>) =>
      cachePolicy({ responseHeaders: Object.entries(headers).map(([name, value]) => ({ name, value })) });
    it('reads freshness as RFC 9111, 4.2.1 does: max-age before Expires, no-cache before both', () => {
      expect(
        policy({ 'Cache-Control': 'public, max-age=600', Expires: 'Thu, 01 Jan 1970 00:00:00 GMT' }).freshS,
      ).to.equal(600);
      expect(policy({ 'cache-control': 's-maxage=60' }).freshS).to.equal(undefined);
      expect(policy({ 'cache-control': 'no-cache, max-age=600' }).freshS).to.equal(0);
      const dates = { date: 'Wed, 25 Nov 2026 10:00:00 GMT', expires: 'Wed, 25 Nov 2026 11:00:00 GMT' };
      expect(policy(dates).freshS).to.equal(3600);
      expect(policy({ 'cache-control': 'no-store' })).to.include({ mayStore: false, validator: false });
      expect(policy({ 'cache-control': 'max-age="31536000", immutable', etag: '"a"' })).to.deep.equal({
        freshS: 31_536_000,
        mayStore: true,
        validator: true,
        immutable: true,
      });
    });
    it('knows names that change with the content', () => {
      expect(['/a.3f9c2b7e.js', '/a-0123456789abcdef.css?x=1'].every(isFingerprinted)).to.equal(true);
      expect(['/a.js', '/jquery-3.8.0.js', '/facade.css', '/2026-11-25.png'].some(isFingerprinted)).to.equal(false);
    });
    it('tells files of one host and one cause together', () => {
      const day = { 'cache-control': 'max-age=86400', etag: '"x"' };
      const year = { 'cache-control': 'max-age=31536000' };
      const list = found('cache-short', body('<p>x'), [
        css('a.css', 'p{}', day),
        css('b.css', 'p{}', day),
        css('c.css', 'p{}'),
        css('d.css', 'p{}', year),
        css('e.0a1b2c3d.css', 'p{}', year),
        css('f.0a1b2c3d.css', 'p{}', { 'cache-control': 'max-age=31536000, immutable' }),
      ]);
      expect(list.map((f) => f.title.replace(/ of www.fernhollow.example/, ''))).to.deep.equal([
        '2 files: each is cached for only 1 day',
        'c.css states no cache lifetime and has no validator',
        'e.0a1b2c3d.css has a fingerprinted name, but is not immutable',
      ]);
      expect(list.every((f) => f.harm === 'tidy')).to.equal(true);
    });
  });

  describe('duplicate-body', () => {
    it('finds one file under two addresses, and neither small nor like ones', () => {
      const text = 'p{color:red}'.repeat(1200);
      const list = found('duplicate-body', body('<p>x'), [
        css('a.css', text),
        css('a.css?v=2', text),
        css('b.css', text.replace('red', 'tan')),
        css('c.css', 'p{}'),
        css('d.css', 'p{}'),
      ]);
      expect(list.map((f) => [f.target, f.harm])).to.deep.equal([[PAGE + 'a.css?v=2', 'slow']]);
      expect(list[0]?.title).to.contain(PAGE + 'a.css');
    });
  });

  describe('picture-format', () => {
    it('counts the frames of a GIF, and survives broken ones', () => {
      expect([gifFrames(gif(1)), gifFrames(gif(7)), gifFrames(Buffer.from('PNG'))]).to.deep.equal([1, 7, 0]);
      fc.assert(
        fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
          gifFrames(bytes);
          expect(gifFrames(Buffer.concat([gif(2).subarray(0, 30), bytes]))).to.be.at.most(1000);
        }),
      );
    });
    it('finds heavy films as GIF, BMP and TIFF, not stills', () => {
      const image = (name: string, content: Buffer): MadeLoad => ({
        url: PAGE + name,
        body: content,
        mime: name.endsWith('.gif') ? 'image/gif' : 'image/png',
        start: 20,
      });
      const bmp = Buffer.concat([Buffer.from('BM'), Buffer.alloc(60)]);
      const list = found('picture-format', body('<img src="/film.gif">'), [
        image('film.gif', gif(12, 120_000)),
        image('still.gif', gif(1, 120_000)),
        image('small.gif', gif(12)),
        image('old.png', bmp),
      ]);
      expect(list.map((f) => f.target.replace(PAGE, ''))).to.deep.equal(['film.gif', 'old.png']);
      expect(list[0]?.evidence.numbers.frames).to.equal(12);
      expect(list[0]?.evidence.source?.line).to.equal(4);
    });
  });

  describe('inlined-data', () => {
    const data = `data:image/png;base64,${'A'.repeat(20_000)}`;
    it('finds large data in pages and styles and source maps in scripts', () => {
      const list = found('inlined-data', body(`<p>x</p>\n<img src="${data}">`), [
        css('a.css', `.a{}\n.b{background:url(${data})}`),
        css('b.css', `.b{background:url(data:image/gif;base64,R0lGOD)}${'.c{}'.repeat(5000)}`),
        {
          url: PAGE + 'c.js',
          body: `run()\n//# sourceMappingURL=data:application/json;base64,${'B'.repeat(30_000)}`,
          start: 40,
        },
        { url: PAGE + 'd.js', body: `run()\n//# sourceMappingURL=d.js.map${' '.repeat(20_000)}`, start: 40 },
      ]);
      expect(list.map((f) => [f.target.replace(PAGE, ''), f.evidence.numbers.line])).to.deep.equal([
        ['', 5],
        ['a.css', 2],
        ['c.js', 2],
      ]);
      expect(list[2]?.title).to.match(/source map/);
    });
  });

  describe('font-format and font-display', () => {
    const font = (name: string, first: string): MadeLoad => ({
      url: PAGE + name,
      body: Buffer.concat([Buffer.from(first, 'latin1'), Buffer.alloc(30_000)]),
      mime: 'font/woff',
      start: 60,
    });
    it('knows fonts by their first bytes', () => {
      const kind = (first: string) => fontKind(Buffer.from(first, 'latin1'));
      expect(['wOF2', 'wOFF', 'OTTO', '\x00\x01\x00\x00', 'nope'].map(kind)).to.deep.equal([
        'woff2',
        'woff',
        'opentype',
        'truetype',
        undefined,
      ]);
    });
    it('finds fonts that are not WOFF 2', () => {
      const list = found('font-format', body('<p>x'), [
        font('a.woff', 'wOFF'),
        font('b.woff2', 'wOF2'),
        font('c.ttf', '\x00\x01\x00\x00'),
      ]);
      expect(list.map((f) => [f.target.replace(PAGE, ''), f.harm])).to.deep.equal([
        ['a.woff', 'slow'],
        ['c.ttf', 'slow'],
      ]);
    });
    it('finds fetched fonts whose text waits for them, by the rule itself', () => {
      const rules = `@font-face{font-family:A;src:url(/a.woff2)}\n@font-face{font-family:B;font-display:swap;src:url(/b.woff2)}\n@font-face{font-family:C;src:url(/c.woff2);font-display:block}\n@font-face{font-family:D;src:url(/never.woff2)}`;
      const list = found('font-display', body('<p>x', '<link rel=stylesheet href=/s.css>'), [
        css('s.css', rules),
        font('a.woff2', 'wOF2'),
        font('b.woff2', 'wOF2'),
        font('c.woff2', 'wOF2'),
      ]);
      expect(list.map((f) => [f.target.replace(PAGE, ''), f.evidence.source?.line])).to.deep.equal([
        ['a.woff2', 1],
        ['c.woff2', 3],
      ]);
    });
  });

  describe('document-write', () => {
    it('finds scripts that write scripts or styles, inline and fetched', () => {
      const writes = `document.write('<scr' + 'ipt src="/more.js"></scr' + 'ipt>')`;
      const list = found(
        'document-write',
        body(
          `<script>${writes}</script><script src="/a.js"></script><script defer src="/b.js"></script><script>document.write('<b>x</b>')</script>`,
        ),
        [
          { url: PAGE + 'a.js', body: `x();\n${writes}`, start: 30 },
          { url: PAGE + 'b.js', body: writes, start: 30 },
        ],
      );
      expect(list.map((f) => [f.target.replace(PAGE, ''), f.evidence.source?.line])).to.deep.equal([
        ['', 4],
        ['a.js', 4],
      ]);
      expect(list[1]?.title).to.match(/line 2/);
    });
  });

  describe('server-wait', () => {
    it('finds a page that is long in coming', () => {
      const slow = (wait: number) =>
        auditOf(body('<p>x'), [], undefined, PAGE, { wait }).findings.filter((f) => f.check === 'server-wait');
      expect(slow(100)).to.deep.equal([]);
      expect(slow(1500)[0]?.title).to.match(/took 1[45]\d\d ms/);
    });
    it('counts pauses within the page, and says where', () => {
      // Less one round trip, of 20 ms where nobody has stated the link.
      const lens = { pauses: [{ share: 0.25, ms: 700 }] };
      const audit = auditOf(body('<p>x'), [], undefined, PAGE, { wait: 100, lens });
      const [f] = audit.findings.filter((g) => g.check === 'server-wait');
      expect(f?.title).to.equal('The server took 780 ms to send the page: it paused after 25 % of it');
      expect(audit.fixes.map((x) => x.kind)).to.include('server-faster');
    });
  });

  describe('text-unminified', () => {
    it('counts what only people read, and nothing inside lines', () => {
      expect(readingOnly('a{b:c}')).to.equal(0);
      expect(readingOnly('/* why */\na {\n  b: c;\n\n}\n// no')).to.equal(10 + 2 + 1 + 5);
      expect(readingOnly('/* a\n b */ c{}')).to.equal(5 + 5);
      fc.assert(fc.property(fc.string(), (text) => void expect(readingOnly(text)).to.be.within(0, text.length)));
    });
    it('finds written-out files of some size, not packed ones', () => {
      const rule = '.a {\n    color: red;\n    /* why it is red */\n}\n\n';
      const list = found('text-unminified', body('<p>x'), [
        css('long.css', rule.repeat(400)),
        css('packed.css', '.a{color:red}'.repeat(2000)),
        css('short.css', rule),
      ]);
      expect(list.map((f) => [f.target.replace(PAGE, ''), f.harm])).to.deep.equal([['long.css', 'tidy']]);
    });
  });

  describe('library-twice', () => {
    it('reads what a script states of itself', () => {
      expect(statedLibrary('/*!\n * Garden Kit v3.2.1 (c)\n */x')).to.deep.equal({
        name: 'garden kit',
        version: '3.2.1',
      });
      expect(statedLibrary('/* leafmap 1.10 */')).to.deep.equal({ name: 'leafmap', version: '1.10' });
      expect(statedLibrary('var a /* kit 1.2.3 */')).to.equal(undefined);
      fc.assert(fc.property(fc.string(), (text) => void statedLibrary('/*' + text)));
    });
    it('finds two versions, not the same twice nor different ones', () => {
      const js = (name: string, first: string): MadeLoad => ({ url: PAGE + name, body: `${first}\nrun()`, start: 30 });
      const list = found('library-twice', body('<script src=/b.js></script>'), [
        js('a.js', '/*! Garden Kit v3.2.1 */'),
        js('b.js', '/*! Garden Kit v2.0.0 */'),
        js('c.js', '/*! Garden Kit v3.2.1 */'),
        js('d.js', '/*! Leafmap v1.0.0 */'),
      ]);
      expect(list.map((f) => [f.target, f.evidence.source?.line])).to.deep.equal([[PAGE + 'b.js', 4]]);
    });
  });

  it('find documents and inline scripts that are too large', () => {
    const checks = (html: string) => auditOf(html).findings.map((f) => f.check);
    expect(checks(body('<i></i>'.repeat(6000)))).to.include('html-large');
    expect(checks(body('x'.repeat(400_000)))).to.include('html-large');
    const script = `<script>${'a();'.repeat(4000)}</script>`;
    expect(checks(body('<p>x', script))).to.include('inline-script-large');
    expect(checks(body(script))).to.not.include('inline-script-large');
    expect(checks(body('<p>x', '<script>a()</script>'))).to.not.include('inline-script-large');
  });
});
