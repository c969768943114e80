import { neededPixels } from '../../../src/core/source/pictureUse';
import { expect } from 'chai';
import { CHECKS } from '../../../src/core/checks';
import { auditOf, capture, har, PAGE, picture, type MadeFacts, type MadeLoad } from '../../fixtures/har';
import { auditPage } from '../../../src/core/plan/audit';

const found = (check: string, html: string, loads: readonly MadeLoad[] = [], facts?: MadeFacts, url = PAGE) =>
  auditOf(html, loads, facts, url).findings.filter((f) => f.check === check);
const img = (name: string, bytes = 60_000, values: Partial<MadeLoad> = {}): MadeLoad => ({
  url: PAGE + name,
  bytes,
  start: 100,
  ...values,
});
const body = (inner: string) =>
  `<!doctype html>\n<html><head><title>x</title></head>\n<body>\n${inner}\n</body></html>`;
const path = (tail: string) => `html:nth-of-type(1)>body:nth-of-type(1)>${tail}`;

describe('core/checks', () => {
  it('have different ids and say what they look at and cannot see', () => {
    expect(new Set(CHECKS.map((c) => c.id)).size).to.equal(CHECKS.length);
    for (const c of CHECKS)
      for (const text of [c.question, c.examines, c.cannotSee, c.fixedWhen]) expect(text.length).to.be.above(20);
  });

  it('give every finding a page, a target, a place and plain words', () => {
    const audit = auditOf(body('<img src="http://a.example/x.jpg"><script src="http://a.example/x.js"></script>'));
    expect(audit.findings.length).to.be.above(1);
    for (const f of audit.findings) {
      expect(f.page).to.equal(PAGE);
      expect(f.target).not.to.equal('');
      expect(f.plain).to.match(/\.$/);
      expect(f.evidence.source ?? f.evidence.load ?? f.evidence.path).not.to.equal(undefined);
    }
    expect(new Set(audit.findings.map((f) => f.id)).size).to.equal(audit.findings.length);
  });

  describe('http-entrance', () => {
    const hop = (url: string, status: number, redirectURL: string): MadeLoad => ({ url, status, redirectURL });
    const chain = (...hops: MadeLoad[]) =>
      auditPage(capture(har([...hops, { url: PAGE, body: body('<p>x'), start: 200 }])).page).findings.filter(
        (f) => f.check === 'http-entrance',
      );
    it('finds temporary redirects and chains', () => {
      expect(chain(hop('http://www.fernhollow.example/', 302, PAGE))[0]?.title).to.match(/temporary redirects \(302\)/);
      const two = chain(
        hop('http://fernhollow.example/', 301, 'http://www.fernhollow.example/'),
        hop('http://www.fernhollow.example/', 301, PAGE),
      );
      expect(two[0]?.evidence.numbers.hops).to.equal(2);
    });
    it('accepts one permanent hop and pages asked for by https', () => {
      expect(chain(hop('http://www.fernhollow.example/', 301, PAGE))).to.deep.equal([]);
      expect(chain(hop('http://www.fernhollow.example/', 308, PAGE))).to.deep.equal([]);
      expect(chain()).to.deep.equal([]);
    });
    it('finds a page that stays on http, but not on this machine', () => {
      expect(found('http-entrance', body('<p>x'), [], undefined, 'http://www.fernhollow.example/')).to.have.length(1);
      expect(found('http-entrance', body('<p>x'), [], undefined, 'http://localhost:3000/')).to.deep.equal([]);
    });
  });

  describe('http-mention', () => {
    it('finds own links, canonical and hreflang, not links to others', () => {
      const list = found(
        'http-mention',
        body(
          '<a href="http://www.fernhollow.example/a">a</a><a href="http://tickets.fernhollow.example/">t</a><a href="http://growers.mossbank.example/">m</a><link rel="alternate" hreflang="de" href="http://fernhollow.example/f">',
        ),
      );
      expect(list.map((f) => [f.target, f.harm])).to.deep.equal([
        ['http://www.fernhollow.example/a', 'tidy'],
        ['http://tickets.fernhollow.example/', 'tidy'],
        ['http://fernhollow.example/f', 'exposed'],
      ]);
      expect(list[0]?.evidence.source).to.include({ line: 4, column: 1 });
    });
  });

  describe('mixed content', () => {
    it('tells blockable from upgradeable (Mixed Content, section 3)', () => {
      const list = found(
        'mixed-markup',
        body(
          '<img src="http://a.example/i.jpg"><img srcset="http://a.example/j.jpg 2x"><script src="http://a.example/s.js"></script><iframe src="http://a.example/f"></iframe><video src="http://a.example/v.mp4"></video>',
        ),
      );
      expect(list.map((f) => [f.target.split('/').at(-1), f.harm])).to.deep.equal([
        ['i.jpg', 'exposed'],
        ['j.jpg', 'broken'],
        ['s.js', 'broken'],
        ['f', 'broken'],
        ['v.mp4', 'exposed'],
      ]);
    });
    it('leaves http pages, outbound links and loopback alone', () => {
      expect(
        found(
          'mixed-markup',
          body('<img src="http://a.example/i.jpg">'),
          [],
          undefined,
          'http://www.fernhollow.example/',
        ),
      ).to.deep.equal([]);
      expect(
        found(
          'mixed-markup',
          body('<a href="http://a.example/">x</a><img src="http://localhost/i.jpg"><img src="http://127.0.0.1/i.jpg">'),
        ),
      ).to.deep.equal([]);
    });
    it('says when upgrade-insecure-requests masks it', () => {
      const [f] = found(
        'mixed-markup',
        '<meta http-equiv="Content-Security-Policy" content="upgrade-insecure-requests"><script src="http://a.example/s.js"></script>',
      );
      expect(f?.harm).to.equal('tidy');
      expect(f?.title).to.match(/masked/);
    });
    it('finds http in stylesheets with their line, in style elements and attributes', () => {
      const css =
        'p{color:red}\n.a{background:url(http://a.example/i.png)}\n@font-face{src:url(http://a.example/f.woff2)}';
      const list = found(
        'mixed-style',
        body(
          '<link rel=stylesheet href=/s.css><style>@import "http://a.example/c.css";</style><p style="background:url(http://a.example/j.png)">',
        ),
        [{ url: PAGE + 's.css', body: css }],
      );
      expect(list.map((f) => [f.target.split('/').at(-1), f.harm, f.evidence.source?.line])).to.deep.equal([
        ['i.png', 'exposed', 2],
        ['f.woff2', 'broken', 3],
        ['c.css', 'broken', 4],
        ['j.png', 'exposed', 4],
      ]);
    });
    it('finds requests of scripts and redirects through http in the load record only', () => {
      const list = found('mixed-load', body('<img src="/go">'), [
        { url: PAGE + 'go', status: 302, redirectURL: 'http://a.example/x.jpg', mime: 'image/jpeg', start: 20 },
        { url: 'http://a.example/x.jpg', start: 50 },
        {
          url: 'http://a.example/data.json',
          mime: 'application/json',
          status: 0,
          start: 60,
          lens: { kind: 'data', mixedBlocked: true },
        },
      ]);
      expect(list.map((f) => [f.title, f.harm])).to.deep.equal([
        ['A redirect goes through http (image)', 'exposed'],
        ['A script fetched over http (data, blocked, from a.example)', 'broken'],
      ]);
    });
  });

  describe('hero', () => {
    const hero = (tail: string, url: string, tag = 'img') => ({ timeMs: 400, size: 9, path: path(tail), tag, url });
    const cases: [string, string, string, string, MadeLoad[]][] = [
      ['attribute', '<img src="/h.jpg" loading="lazy">', 'img:nth-of-type(1)', 'loading=lazy', []],
      [
        'data attribute with a loader',
        '<img src="/b.gif" data-original="/h.jpg">',
        'img:nth-of-type(1)',
        'data-original',
        [],
      ],
      [
        'background',
        '<link rel=stylesheet href=/s.css><div id="d">x</div>',
        'div:nth-of-type(1)',
        'CSS background',
        [{ url: PAGE + 's.css', body: '#d{background:url(/h.jpg)}' }],
      ],
      ['built by a script', '<div id="d"></div>', 'div:nth-of-type(1)>img:nth-of-type(1)', 'built by a script', []],
    ];
    for (const [name, html, tail, title, loads] of cases) {
      it(`is lazy: ${name}`, () => {
        const tag = name === 'background' ? 'div' : 'img';
        const list = found('hero-lazy', body(html), [...loads, img('h.jpg')], {
          hero: hero(tail, PAGE + 'h.jpg', tag),
        });
        expect(list).to.have.length(1);
        expect(list[0]?.title).to.contain(title);
      });
    }
    it('is not lazy when it stands plainly in the markup, or is text', () => {
      expect(
        found('hero-lazy', body('<img src="/h.jpg">'), [img('h.jpg')], {
          hero: hero('img:nth-of-type(1)', PAGE + 'h.jpg'),
        }),
      ).to.deep.equal([]);
      expect(
        found('hero-lazy', body('<h1>Garden</h1><img loading=lazy src=/x.jpg>'), [img('x.jpg')], {
          hero: { timeMs: 200, size: 9, path: path('h1:nth-of-type(1)'), tag: 'h1' },
        }),
      ).to.deep.equal([]);
    });
    it('is late when more than ten loads went ahead, and says what they were', () => {
      const ahead = Array.from({ length: 12 }, (_, i) => img(`a${i}.jpg`, 10_000, { start: 50 + i }));
      const pictures = [picture(PAGE + 'a0.jpg', { visible: false })];
      const [f] = found('hero-late', body('<img src="/h.jpg">'), [...ahead, img('h.jpg')], {
        hero: hero('img:nth-of-type(1)', PAGE + 'h.jpg'),
        pictures,
      });
      expect(f?.evidence.numbers).to.include({ place: 14, of: 14, picturesAhead: 12, hiddenAhead: 1 });
    });
    it('is guessed from the markup when nothing was observed', () => {
      const audit = auditOf(body('<img src="/logo.jpg"><img src="/h.jpg" loading=lazy>'), [
        img('logo.jpg', 9_000),
        img('h.jpg', 90_000),
      ]);
      expect(audit.hero).to.include({ kind: 'image', url: PAGE + 'h.jpg', seen: false });
      expect(audit.findings.map((f) => f.check)).to.include('hero-lazy');
    });
  });

  describe('weight', () => {
    it('finds pictures with more pixels than their place shows', () => {
      const [f] = found('image-oversized', body('<img src="/h.jpg">'), [img('h.jpg', 200_000)], {
        pictures: [
          picture(PAGE + 'h.jpg', { naturalWidth: 4000, naturalHeight: 2400, path: path('img:nth-of-type(1)') }),
        ],
      });
      expect(f?.evidence.numbers).to.include({ neededWidth: 1000, neededHeight: 600, measured: 0 });
      expect(f?.evidence.source?.line).to.equal(4);
    });
    it('leaves alone pictures that fit, that are not drawn, and drawings', () => {
      const facts = (values: object) => ({ pictures: [picture(PAGE + 'h.jpg', values)] });
      expect(found('image-oversized', body('<img src="/h.jpg">'), [img('h.jpg')], facts({}))).to.deep.equal([]);
      expect(
        found(
          'image-oversized',
          body('<img src="/h.jpg">'),
          [img('h.jpg')],
          facts({ naturalWidth: 4000, naturalHeight: 2400, visible: false }),
        ),
      ).to.deep.equal([]);
      expect(
        found('image-oversized', body('<img src="/h.svg">'), [img('h.svg')], {
          pictures: [picture(PAGE + 'h.svg', { naturalWidth: 4000, naturalHeight: 2400 })],
        }),
      ).to.deep.equal([]);
    });
    it('needs as many pixels as cover the box at its density', () => {
      expect(neededPixels(400, 240, 2000, 2000, 1)).to.deep.equal({ width: 400, height: 400 });
      expect(neededPixels(400, 240, 300, 180, 2)).to.deep.equal({ width: 300, height: 180 });
    });
    it('finds text without content coding, not small, coded or binary files', () => {
      const css = 'p{color:red}'.repeat(2000);
      const list = found('text-uncompressed', body('<p>x'), [
        { url: PAGE + 'a.css', body: css },
        { url: PAGE + 'b.css', body: css, bytes: 900, headers: { 'content-encoding': 'br' } },
        { url: PAGE + 'c.css', body: 'p{}' },
        img('d.jpg'),
      ]);
      expect(list.map((f) => f.target)).to.deep.equal([PAGE + 'a.css']);
    });
    it('finds eager pictures below the first screen, and tells hidden ones apart', () => {
      const html = body(
        '<img src="/a.jpg"><img src="/b.jpg"><img src="/c.jpg"><img src="/d.jpg" loading=lazy><img src="/e.jpg">',
      );
      const pictures = ['a', 'b', 'c', 'd', 'e'].map((n, i) =>
        picture(`${PAGE}${n}.jpg`, {
          path: path(`img:nth-of-type(${i + 1})`),
          box: { x: 0, y: i * 900, width: 400, height: 240 },
          visible: n !== 'c',
          lazyAttribute: n === 'd',
        }),
      );
      const loads = ['a', 'b', 'c', 'd', 'e'].map((n) => img(`${n}.jpg`));
      const numbers = (check: string) => found(check, html, loads, { pictures })[0]?.evidence.numbers;
      expect(numbers('offscreen-eager')).to.include({ pictures: 2 });
      expect(numbers('picture-hidden')).to.include({ pictures: 1 });
    });
  });

  describe('blocking', () => {
    const head = (inner: string) => `<!doctype html>\n<html><head>\n${inner}\n</head><body><p>x</body></html>`;
    it('finds classic scripts of the head only', () => {
      const list = found(
        'script-blocking',
        head(
          '<script src=/a.js></script><script src=/b.js defer></script><script src=/c.js async></script><script src=/d.js type=module></script>',
        ) + '<script src=/e.js></script>',
        ['a', 'b', 'c', 'd', 'e'].map((n) => ({ url: `${PAGE}${n}.js`, body: 'var a' })),
      );
      expect(list.map((f) => f.target)).to.deep.equal([PAGE + 'a.js']);
    });
    it('finds heavy, foreign and importing stylesheets, not small ones and other media', () => {
      const big = 'p{color:red}'.repeat(2000);
      const list = found(
        'style-blocking',
        head(
          '<link rel=stylesheet href=/big.css><link rel=stylesheet href=/small.css><link rel=stylesheet href=/print.css media=print><link rel=stylesheet href=/imp.css><link rel=stylesheet href=https://c.example/f.css>',
        ),
        [
          { url: PAGE + 'big.css', body: big },
          { url: PAGE + 'small.css', body: 'p{}' },
          { url: PAGE + 'print.css', body: big },
          { url: PAGE + 'imp.css', body: '@import "deep.css";' },
          { url: PAGE + 'deep.css', body: 'p{}' },
          { url: 'https://c.example/f.css', body: 'p{}' },
        ],
      );
      expect(list.map((f) => f.target.split('/').at(-1))).to.deep.equal(['big.css', 'imp.css', 'f.css']);
    });
    it('finds redirects in front of the page and of files', () => {
      const audit = auditPage(
        capture(
          har([
            { url: 'https://fernhollow.example/', status: 301, redirectURL: PAGE },
            { url: PAGE, body: body('<img src="/old.jpg">'), start: 40 },
            { url: PAGE + 'old.jpg', status: 302, redirectURL: PAGE + 'new.jpg', start: 60 },
            img('new.jpg'),
          ]),
        ).page,
      );
      expect(audit.findings.filter((f) => f.check === 'redirect-in-front').map((f) => f.target)).to.deep.equal([
        'https://fernhollow.example/',
        PAGE + 'old.jpg',
      ]);
    });
  });

  it('find nothing on a page without faults', () => {
    const html = head('<title>x</title><link rel=stylesheet href=/s.css><script src=/a.js defer></script>');
    const audit = auditOf(html, [
      { url: PAGE + 's.css', body: 'p{color:red}', headers: { 'cache-control': 'max-age=31536000' } },
      { url: PAGE + 'a.js', body: 'var a', headers: { 'cache-control': 'max-age=31536000' } },
    ]);
    expect(audit.findings).to.deep.equal([]);
    function head(inner: string) {
      return `<!doctype html><html><head>${inner}</head><body><h1>Garden</h1><p>x <a href="http://growers.mossbank.example/">friends</a></body></html>`;
    }
  });
});
