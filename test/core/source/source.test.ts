import { expect } from 'chai';
import fc from 'fast-check';
import { elementLabel, lineText, parseDocument, placeOf } from '../../../src/core/source/document';
import { candidateSet, listMentions } from '../../../src/core/source/mentions';
import { mediaMatches } from '../../../src/core/source/media';
import { parseSrcset, pickCandidate, sizesWidth } from '../../../src/core/source/srcset';
import { readRules } from '../../../src/core/source/rules';
import { readablePart, unreadNote } from '../../../src/core/source/readable';
import { listStyleReferences } from '../../../src/core/source/stylesheet';

const at = 'https://www.fernhollow.example/visit/';
const mentions = (html: string) =>
  listMentions(parseDocument(html, at)).map((m) => `${m.use} ${m.kind ?? ''} ${m.url}`.replace('  ', ' '));

describe('core/source/document', () => {
  it('knows line, column and path of each element', () => {
    const d = parseDocument('<!doctype html>\n<html><body>\n  <p>a</p>\n  <p class="b">b</p></body></html>', at);
    const second = d.elements.filter((e) => e.tag === 'p')[1];
    expect(second).to.include({ line: 4, column: 3, path: 'html:nth-of-type(1)>body:nth-of-type(1)>p:nth-of-type(2)' });
    expect(d.byPath.get(second?.path ?? '')).to.equal(second);
    expect(second && elementLabel(d, second)).to.equal('p.b');
  });

  it('numbers paths as the browser does when html, head and body are left out', () => {
    const d = parseDocument('<title>x</title><img src=a.jpg>', at);
    expect(d.elements.map((e) => e.path)).to.include('html:nth-of-type(1)>body:nth-of-type(1)>img:nth-of-type(1)');
  });

  it('takes template content as inert and noscript as text', () => {
    const d = parseDocument('<template><img src=a.jpg></template><noscript><img src=b.jpg></noscript>', at);
    expect(d.elements.filter((e) => e.tag === 'img').every((e) => e.inert)).to.equal(true);
  });

  it('uses the first base href', () => {
    expect(parseDocument('<base href="/sub/"><base href="/no/"><a href="x">', at).baseUrl).to.equal(
      'https://www.fernhollow.example/sub/',
    );
  });

  it('survives hostile nesting and any text', () => {
    expect(parseDocument('<div>'.repeat(30_000), at).elements.length).to.be.above(500);
    fc.assert(
      fc.property(
        fc.string({
          unit: fc.constantFrom(
            '<',
            '>',
            '/',
            '"',
            "'",
            '=',
            'a',
            'img',
            'src',
            ' ',
            '!--',
            '\0',
            'svg',
            'template',
            '&',
          ),
        }),
        (text) => {
          const d = parseDocument(text, at);
          for (const e of d.elements) expect(e.start).to.be.within(0, text.length);
        },
      ),
    );
  });

  it('finds places and lines', () => {
    expect(placeOf('ab\ncd', 4)).to.deep.equal({ line: 2, column: 2 });
    expect(lineText('ab\n  cd \nef', 2)).to.equal('cd');
    expect(lineText('ab', 9)).to.equal('');
  });
});

describe('core/source/mentions', () => {
  const loads: [string, string][] = [
    ['<img src="a.jpg">', 'load image https://www.fernhollow.example/visit/a.jpg'],
    ['<video poster="/p.jpg">', 'load image https://www.fernhollow.example/p.jpg'],
    ['<svg><image href="/i.png"/></svg>', 'load image https://www.fernhollow.example/i.png'],
    ['<object data="/o.svg">', 'load object https://www.fernhollow.example/o.svg'],
    ['<link rel="stylesheet" href="/s.css">', 'load style https://www.fernhollow.example/s.css'],
    ['<link rel="shortcut icon" href="/i.ico">', 'load icon https://www.fernhollow.example/i.ico'],
    ['<link rel=preload as=font href=/f.woff2>', 'load font https://www.fernhollow.example/f.woff2'],
    ['<script src="//c.example/x.js"></script>', 'load script https://c.example/x.js'],
    ['<iframe src="/w/"></iframe>', 'load frame https://www.fernhollow.example/w/'],
    ['<input type=image src=/b.png>', 'load image https://www.fernhollow.example/b.png'],
    ['<img data-src="/late.jpg" src="/blank.gif">', 'hint image https://www.fernhollow.example/late.jpg'],
    ['<link rel=canonical href="http://a.example/">', 'canonical http://a.example/'],
    ['<form action="http://a.example/go"></form>', 'form http://a.example/go'],
    ['<meta property="og:image" content="http://a.example/o.jpg">', 'social http://a.example/o.jpg'],
    ['<a href="http://a.example/">x</a>', 'link http://a.example/'],
  ];
  for (const [html, wanted] of loads) it(`finds ${html}`, () => expect(mentions(html)).to.include(wanted));

  const innocents = [
    '<!-- <img src="http://a.example/x.jpg"> -->',
    '<p>http://a.example/x.jpg</p>',
    '<html xmlns="http://www.w3.org/1999/xhtml">',
    '<script>var u = "http://a.example/x.js"</script>',
    '<script type="application/ld+json">{"@id":"http://a.example/#me"}</script>',
    '<script type="text/template" src="http://a.example/t.js"></script>',
    '<img src="data:image/gif;base64,R0lGOD">',
    '<a href="mailto:a@b.example">x</a>',
    '<noscript><img src="http://a.example/x.jpg"></noscript>',
    '<link rel="alternate stylesheet" href="http://a.example/x.css">',
  ];
  for (const html of innocents) it(`leaves alone ${html}`, () => expect(mentions(html)).to.deep.equal([]));

  it('takes every candidate of a srcset', () => {
    expect(mentions('<img srcset="a.jpg 1x, b.jpg 2x">')).to.have.length(2);
  });

  it('shows the picture source that media and type allow', () => {
    const d = parseDocument(
      '<picture><source media="(min-width: 800px)" srcset="wide.jpg"><source type="image/jxl" srcset="no.jxl"><img src="small.jpg"></picture>',
      at,
    );
    const img = d.elements.find((e) => e.tag === 'img');
    if (!img) throw new Error();
    expect(candidateSet(d, img, { widthPx: 400, density: 1 }).url).to.match(/small\.jpg$/);
    expect(candidateSet(d, img, { widthPx: 1200, density: 1 }).url).to.match(/wide\.jpg$/);
  });
});

describe('core/source/srcset and media', () => {
  it('parses the candidates of the HTML Standard', () => {
    expect(parseSrcset('pear-mobile.jpeg 720w, pear-tablet.jpeg 1280w')).to.deep.equal([
      { url: 'pear-mobile.jpeg', width: 720, start: 0 },
      { url: 'pear-tablet.jpeg', width: 1280, start: 23 },
    ]);
    expect(parseSrcset('a.jpg, b,c.jpg 2x')).to.deep.equal([
      { url: 'a.jpg', density: 1, start: 0 },
      { url: 'b,c.jpg', density: 2, start: 7 },
    ]);
    expect(parseSrcset('a.jpg 2q')).to.deep.equal([]);
  });

  it('reads sizes with media, vw, px and calc', () => {
    expect(sizesWidth('(max-width: 600px) 50vw, 300px', { widthPx: 400 })).to.equal(200);
    expect(sizesWidth('(max-width: 600px) 50vw, 300px', { widthPx: 900 })).to.equal(300);
    expect(sizesWidth('calc(100vw - 40px)', { widthPx: 400 })).to.equal(360);
    expect(sizesWidth('calc(100vw / 3)', { widthPx: 900 })).to.equal(300);
    expect(sizesWidth('min(100vw, 720px)', { widthPx: 900 })).to.equal(720);
    expect(sizesWidth('(min-width: 1px) calc(2 * (10vw + 1rem)), 5px', { widthPx: 400 })).to.equal(112);
    expect(sizesWidth('50%, auto, -3px, 12em', { widthPx: 400 })).to.equal(192);
    expect(sizesWidth('(width >= 30em) 1in, clamp(10px, 50vw, 100px)', { widthPx: 400 })).to.equal(100);
    expect(sizesWidth(undefined, { widthPx: 400 })).to.equal(400);
  });

  it('takes the least dense candidate that is dense enough, else the densest', () => {
    const set = 's.jpg 400w, m.jpg 800w, l.jpg 1600w';
    expect(pickCandidate(set, '100vw', { widthPx: 400, density: 1 })).to.equal('s.jpg');
    expect(pickCandidate(set, '100vw', { widthPx: 400, density: 1.5 })).to.equal('m.jpg');
    expect(pickCandidate(set, '100vw', { widthPx: 400, density: 9 })).to.equal('l.jpg');
  });

  it('matches media', () => {
    expect(mediaMatches('print', { widthPx: 400 })).to.equal(false);
    expect(mediaMatches('print, screen', { widthPx: 400 })).to.equal(true);
    expect(mediaMatches('only screen and (min-width: 50em)', { widthPx: 400 })).to.equal(false);
    expect(mediaMatches('(max-width: 500px)', { widthPx: 400 })).to.equal(true);
    expect(mediaMatches('not all', { widthPx: 400 })).to.equal(false);
    expect(mediaMatches(undefined, { widthPx: 400 })).to.equal(true);
  });
});

describe('core/source/stylesheet', () => {
  const list = (css: string) => listStyleReferences(css, 'https://a.example/css/x.css').map((r) => `${r.use} ${r.url}`);

  it('finds imports, fonts and pictures with their offsets', () => {
    const css =
      '@import url(b.css); @import "c.css";\n@font-face{src:url("f.woff2")}\np{background:URL( http://b.example/i.png )}';
    expect(list(css)).to.deep.equal([
      'import https://a.example/css/b.css',
      'import https://a.example/css/c.css',
      'font https://a.example/css/f.woff2',
      'image http://b.example/i.png',
    ]);
    for (const r of listStyleReferences(css, 'https://a.example/'))
      expect(css.slice(r.offset, r.offset + r.length)).to.equal(r.raw);
  });

  it('leaves alone comments, data URLs, fragments and other strings', () => {
    expect(
      list(
        '/* url(a.png) */ p{content:"url(b.png)"; background:url(data:image/png;base64,xx); fill:url(#g)} @namespace svg "http://www.w3.org/2000/svg";',
      ),
    ).to.deep.equal([]);
  });

  it('never throws, whatever the text', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('@import', ' ', 'url(', ')', '"', "'", '{', '}', ';', '\\', 'a', '/*') }),
        (css) => void list(css),
      ),
    );
  });
});

describe('core/source/rules', () => {
  it('reads faulty styles to the end, alike whatever was read before', () => {
    const faulty = 'a(b);}c{d:e}f{g:h}';
    const names = () => readRules(faulty + ' '.repeat(names.calls++)).rules.map((r) => r.selectorText);
    names.calls = 0;
    const fresh = names();
    expect(fresh).to.have.length(2);
    for (const open of ['{', '(', '[', 'x(']) {
      readRules(open.repeat(100));
      expect(names()).to.deep.equal(fresh);
    }
  });
});

describe('core/source/readable', () => {
  it('reads as many elements as fit, from the start, and says how much that is', () => {
    const text = `<!doctype html><p id=first>${'<b>x</b> 1 < 2 '.repeat(500)}<i id=last>`;
    const part = readablePart(text, 100);
    expect(text.startsWith(part)).to.equal(true);
    expect(parseDocument(part, at).elements).to.have.length(100);
    expect(unreadNote('The page', text, 100)).to.match(/^The page is too large.*the first 2 of 8 kB were examined\.$/);
    expect(unreadNote('The page', text)).to.equal(undefined);
    expect(readablePart(text)).to.equal(text);
  });
});
