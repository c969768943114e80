import { expect } from 'chai';
import { buildGraph } from '../../../src/core/load/build';
import { ESTIMATED_WORK } from '../../../src/core/load/estimates';
import type { LoadGraph } from '../../../src/core/load/graph';
import { findHero } from '../../../src/core/load/hero';
import { simulate } from '../../../src/core/load/simulate';
import { VISITORS } from '../../../src/core/load/visitors';
import { chainNames } from '../../../src/core/plan/forecast';
import { capture, har, PAGE, picture, type MadeFacts, type MadeLoad } from '../../fixtures/har';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const MEDIA = 'https://media.fernhollow.example/';

function graphOf(html: string, loads: readonly MadeLoad[] = [], facts?: MadeFacts): LoadGraph {
  return buildGraph(capture(har([{ url: PAGE, body: html }, ...loads], facts)).page);
}

const fetchOf = (g: LoadGraph, name: string) => {
  const found = g.fetches.find((f) => f.url.endsWith(name));
  if (!found) throw new Error(`no ${name}`);
  return found;
};
const by = (g: LoadGraph, name: string) => fetchOf(g, name).discovery.by;
const at = (path: string) => `html:nth-of-type(1)>body:nth-of-type(1)>${path}`;

describe('core/load/build: how the browser learns of a load', () => {
  it('by the scanner: scripts, styles, pictures and preloads of the markup', () => {
    const g = graphOf(
      '<link rel=stylesheet href=/s.css><link rel=preload as=image href=/p.jpg><script src=/j.js async></script><body><img src=/i.jpg><img srcset="/one.jpg 1x, /two.jpg 2x">',
      ['s.css', 'p.jpg', 'j.js', 'i.jpg', 'one.jpg'].map((n, i) => ({ url: PAGE + n, body: 'x', start: 30 + i })),
    );
    for (const name of ['s.css', 'p.jpg', 'j.js', 'i.jpg', 'one.jpg']) expect(by(g, name), name).to.equal('scanner');
    const offsets = ['s.css', 'p.jpg', 'j.js', 'i.jpg'].map(
      (n) => (fetchOf(g, n).discovery as { offset: number }).offset,
    );
    expect(offsets).to.deep.equal([...offsets].sort((a, b) => a - b));
  });

  it('by layout: lazy pictures; by the parser: frames', () => {
    const g = graphOf('<body><img src=/l.jpg loading=lazy><iframe src=/f/></iframe>', [
      { url: PAGE + 'l.jpg', bytes: 9, start: 80 },
      { url: PAGE + 'f/', body: '<p>', start: 60, lens: { kind: 'frame' } },
    ]);
    expect(by(g, 'l.jpg')).to.equal('layout');
    expect(by(g, '/f/')).to.equal('parser');
    expect(fetchOf(g, 'l.jpg').holdsLoad).to.equal(false);
  });

  it('by a stylesheet: imports at once, pictures and fonts when drawn', () => {
    const g = graphOf('<link rel=stylesheet href=/s.css><body><div>x', [
      {
        url: PAGE + 's.css',
        body: '@import "deep.css"; @font-face{src:url(f.woff2)} div{background:url(b.jpg)}',
        start: 30,
      },
      { url: PAGE + 'deep.css', body: 'p{}', start: 60 },
      { url: PAGE + 'f.woff2', bytes: 20_000, start: 90 },
      { url: PAGE + 'b.jpg', bytes: 20_000, start: 91 },
    ]);
    expect(fetchOf(g, 'deep.css').discovery).to.deep.include({ by: 'style', sheet: 1, drawn: false });
    expect(fetchOf(g, 'f.woff2').discovery).to.deep.include({ by: 'style', sheet: 1, drawn: true });
    expect(fetchOf(g, 'b.jpg').discovery).to.deep.include({ by: 'style', sheet: 1, drawn: true });
  });

  it('by the script that built the element of a background, which the source does not have', () => {
    const background = (start: number, path: string) =>
      fetchOf(
        graphOf(
          '<link rel=stylesheet href=/s.css><body><div>x</div><script src=/box.js></script>',
          [
            { url: PAGE + 's.css', body: '.close{background:url(close.png)} div{color:red}', start: 30 },
            { url: PAGE + 'box.js', body: 'build()', start: 30 },
            { url: PAGE + 'close.png', bytes: 3000, start },
          ],
          {
            work: [{ kind: 'script', url: PAGE + 'box.js', line: 1, startMs: 100, durationMs: 20, phase: 'evaluate' }],
            pictures: [picture(PAGE + 'close.png', { use: 'background', path })],
          },
        ),
        'close.png',
      ).discovery;
    const built = at('div:nth-of-type(2)>a:nth-of-type(1)');
    expect(background(130, built)).to.deep.equal({ by: 'script', script: 0, delayMs: 0 });
    expect(background(130, at('div:nth-of-type(1)'))).to.deep.include({ by: 'style', drawn: true });
    // Long after or before the script, the recording is no evidence of that.
    expect(background(400, built).by).to.equal('style');
    expect(background(90, built).by).to.equal('style');
  });

  it('by a style element or attribute of the page itself', () => {
    const g = graphOf(
      '<style>#d{background:url(/b.jpg)}</style><body><div id=d style="background-image:url(/c.jpg)">x',
      [
        { url: PAGE + 'b.jpg', bytes: 20_000, start: 91 },
        { url: PAGE + 'c.jpg', bytes: 20_000, start: 92 },
      ],
    );
    for (const n of ['b.jpg', 'c.jpg'])
      expect(fetchOf(g, n).discovery).to.deep.include({ by: 'style', sheet: -1, drawn: true });
  });

  const html = '<script src=/j.js></script><body><img data-src=/late.jpg>';
  const work = [
    { kind: 'script' as const, url: PAGE + 'j.js', startMs: 100, durationMs: 10, phase: 'evaluate' as const },
  ];
  const late = (start: number, lens: object): MadeLoad[] => [
    {
      url: PAGE + 'j.js',
      body: 'document.querySelectorAll("[data-src]").forEach(i => i.src = i.dataset.src)',
      start: 30,
    },
    { url: PAGE + 'late.jpg', bytes: 40_000, start, lens },
  ];
  const initiator = { initiator: { type: 'script', url: PAGE + 'j.js' } };

  it('by a script right after it ran, or some time after', () => {
    const g = graphOf(html, late(112, initiator), { work });
    expect(fetchOf(g, 'late.jpg').discovery).to.deep.equal({ by: 'script', script: 0, delayMs: 2 });
    const slow = graphOf(html, late(250, initiator), { work });
    expect(fetchOf(slow, 'late.jpg').discovery).to.deep.equal({ by: 'script', script: 0, delayMs: 140 });
  });

  it('by a script that was not done by the clock, though the processor had spent no more on it', () => {
    const held = work.map((w) => ({ ...w, untilMs: 260 }));
    const g = graphOf(html, late(250, initiator), { work: held });
    expect(fetchOf(g, 'late.jpg').discovery).to.deep.equal({ by: 'script', script: 0, delayMs: 0 });
  });

  it('by the handler of an event, when that came between', () => {
    expect(
      fetchOf(graphOf(html, late(305, initiator), { work, onContentLoad: 300 }), 'late.jpg').discovery,
    ).to.deep.equal({ by: 'event', event: 'dcl', delayMs: 5 });
    const g = graphOf(html, late(520, initiator), { work, onContentLoad: 300, onLoad: 500 });
    expect(fetchOf(g, 'late.jpg').discovery).to.deep.equal({ by: 'event', event: 'load', delayMs: 20 });
    expect(fetchOf(g, 'late.jpg').holdsLoad).to.equal(false);
  });

  it('by the text of a script when the file names no initiator', () => {
    expect(fetchOf(graphOf(html, late(200, {})), 'late.jpg').discovery.by).to.equal('script');
    const named = graphOf('<script src=/j.js></script>', [
      { url: PAGE + 'j.js', body: 'fetch("/data/opening-hours.json")', start: 30 },
      { url: PAGE + 'data/opening-hours.json', body: '{}', mime: 'application/json', start: 90 },
    ]);
    expect(by(named, 'opening-hours.json')).to.equal('script');
  });

  it('by an inline script, told by its line', () => {
    const g = graphOf('<body>\n<p>x</p>\n<script>\nfetch("/d.json")\n</script>', [
      {
        url: PAGE + 'd.json',
        body: '{}',
        mime: 'application/json',
        start: 70,
        lens: { initiator: { type: 'script', url: PAGE, line: 4 } },
      },
    ]);
    expect(by(g, 'd.json')).to.equal('script');
    expect(g.scripts[0]).to.include({ mode: 'inline', fetch: -1 });
  });

  it('by a script that writes another one into the document, for which the parser then waits (HTML, 8.4.3)', () => {
    const page = (text: string, priority?: string) =>
      graphOf(`<head>\n<script>\n${text}\n</script></head><body><p>Beds</p></body>`, [
        {
          url: PAGE + 'stats.js',
          body: 'var s',
          start: 80,
          wait: 400,
          lens: { initiator: { type: 'script', url: PAGE, line: 3 }, ...(priority ? { priority } : {}) },
        },
      ]);
    const writes = 'document.write("<script src=\'/stats.js\'><\\/script>")';
    const waitedFor = (g: LoadGraph) => {
      const r = simulate(g, phone);
      return r.milestones.fcpMs > (r.scripts[1]?.endMs ?? Infinity);
    };
    const written = page(writes, 'High');
    expect(written.scripts[1]).to.include({ mode: 'sync', inHead: true, offset: written.scripts[0]?.offset });
    expect(waitedFor(written)).to.equal(true);
    expect(simulate(written, phone).fetches[1]?.cause).to.deep.equal({ kind: 'script', id: 0 });
    // Without priorities it has to be named; with a low one it was inserted by other means.
    expect(waitedFor(page(writes))).to.equal(true);
    expect(waitedFor(page('document.write("<p>x</p>");insert()'))).to.equal(false);
    expect(waitedFor(page(writes, 'Low'))).to.equal(false);
    expect(waitedFor(page('insert("/stats.js")', 'High'))).to.equal(false);
  });

  it('by the Referer of a stylesheet or a frame in plain files', () => {
    const g = graphOf('<link rel=stylesheet href=/s.css><body><iframe src=/f/></iframe>', [
      { url: PAGE + 's.css', start: 30 },
      { url: PAGE + 'b.jpg', bytes: 9, start: 60, requestHeaders: { referer: PAGE + 's.css' } },
      { url: PAGE + 'f/', body: '<p>', start: 61, requestHeaders: { 'sec-fetch-dest': 'iframe' } },
      { url: PAGE + 'inside.jpg', bytes: 9, start: 90, requestHeaders: { referer: PAGE + 'f/' } },
    ]);
    expect(by(g, 'b.jpg')).to.equal('style');
    expect(fetchOf(g, 'inside.jpg').discovery).to.deep.include({ by: 'fetch', fetch: fetchOf(g, '/f/').id });
  });

  it('through redirects, each hop a fetch', () => {
    const g = graphOf('<body><img src=/a>', [
      { url: PAGE + 'a', status: 302, redirectURL: PAGE + 'b', mime: 'image/jpeg', start: 30 },
      { url: PAGE + 'b', status: 302, redirectURL: PAGE + 'c.jpg', mime: 'image/jpeg', start: 50 },
      { url: PAGE + 'c.jpg', bytes: 9, start: 70 },
    ]);
    expect(g.fetches.map((f) => f.redirectTo)).to.deep.equal([undefined, 2, 3, undefined]);
    expect(by(g, '/a')).to.equal('scanner');
    expect(fetchOf(g, '/c.jpg').discovery).to.deep.include({ by: 'fetch', fetch: 2 });
  });

  it('an icon or manifest after load, unless a picture uses the same file', () => {
    expect(
      by(graphOf('<link rel=icon href=/i.svg><body>', [{ url: PAGE + 'i.svg', body: '<svg/>', start: 600 }]), 'i.svg'),
    ).to.equal('event');
    expect(
      by(
        graphOf('<link rel=icon href=/i.svg><body><img src=/i.svg>', [
          { url: PAGE + 'i.svg', body: '<svg/>', start: 40 },
        ]),
        'i.svg',
      ),
    ).to.equal('scanner');
  });
});

describe('core/load/build: costs, priorities and places', () => {
  it('takes script times from the trace, else by the byte', () => {
    const html = '<script src=/j.js></script><script>var a = 1</script>';
    const js: MadeLoad = { url: PAGE + 'j.js', body: 'x'.repeat(100_000), start: 30 };
    const seen = graphOf(html, [js], {
      work: [
        { kind: 'script', url: PAGE + 'j.js', startMs: 50, durationMs: 33, phase: 'evaluate' },
        { kind: 'script', url: PAGE + 'j.js', startMs: 90, durationMs: 50, phase: 'later' },
      ],
    });
    // What it did later is a task of its own.
    expect(seen.scripts.map((s) => [s.mode, s.runMs])).to.deep.equal([
      ['sync', 33],
      ['inline', 0],
      ['callback', 50],
    ]);
    const plain = graphOf(html, [js]);
    expect(plain.scripts[0]?.runMs).to.be.closeTo(100_000 * ESTIMATED_WORK.scriptPerByte, 0.001);
  });

  it('knows which scripts and styles block', () => {
    const names = ['a', 'b', 'c', 'd', 'e'];
    const g = graphOf(
      '<html><head><script src=/a.js></script><script src=/b.js async></script><script src=/c.js defer></script><script src=/d.js type=module></script><link rel=stylesheet href=/s.css><link rel=stylesheet href=/t.css media=print></head><body><script src=/e.js></script>',
      [
        ...names.map((n, i) => ({ url: `${PAGE}${n}.js`, body: 'a', start: 30 + i })),
        { url: PAGE + 's.css', body: 'p{}', start: 40 },
        { url: PAGE + 't.css', body: 'p{}', start: 41 },
      ],
    );
    expect(g.scripts.map((s) => [s.mode, s.inHead])).to.deep.equal([
      ['sync', true],
      ['async', true],
      ['defer', true],
      ['defer', true],
      ['sync', false],
    ]);
    expect(g.styles.map((s) => s.blocking)).to.deep.equal([true, false]);
  });

  it('gives priorities as recorded, else by kind, place and hint', () => {
    const loads = ['head.js', 'late.js', 'async.js', 's.css', 'p.css', 'i.jpg', 'h.jpg', 'f.woff2'].map((n, i) => ({
      url: PAGE + n,
      body: 'x',
      start: 30 + i,
    }));
    const html =
      '<html><head><script src=/head.js></script><script src=/async.js async></script><link rel=stylesheet href=/s.css><link rel=stylesheet href=/p.css media=print></head><body><img src=/i.jpg><img src=/h.jpg fetchpriority=high><script src=/late.js></script>';
    const g = graphOf(html, loads);
    const levels = Object.fromEntries(g.fetches.slice(1).map((f) => [f.url.split('/').at(-1), f.priority]));
    expect(levels).to.deep.equal({
      'head.js': 3,
      'late.js': 2,
      'async.js': 1,
      's.css': 4,
      'p.css': 0,
      'i.jpg': 1,
      'h.jpg': 3,
      'f.woff2': 3,
    });
    expect(
      graphOf('<img src=/i.jpg>', [{ url: PAGE + 'i.jpg', bytes: 9, start: 9, lens: { priority: 'Medium' } }])
        .fetches[1]?.priority,
    ).to.equal(2);
  });

  it('takes the recording link out of server waits, and keeps handshakes that cost more', () => {
    const g = graphOf('<img src=/i.jpg>', [{ url: PAGE + 'i.jpg', bytes: 9, wait: 21, connect: 42, ssl: 30 }], {});
    expect(g.fetches[1]?.serverMs).to.equal(20);
    expect(g.fetches[1]?.setupMs).to.equal(11 + 29);
  });

  it('believes a handshake that was made again apart from the browser, where that took less', () => {
    const of = (connectMs: number, tlsMs: number) =>
      graphOf('<img src=/i.jpg>', [{ url: PAGE + 'i.jpg', bytes: 9, wait: 21, connect: 342, ssl: 330 }], {
        handshakes: [{ origin: PAGE.replace(/\/$/, ''), connectMs, tlsMs }],
      }).fetches[1]?.setupMs;
    expect(of(2, 7)).to.equal(1 + 6);
    expect(of(2, 900), 'the browser was quicker').to.equal(200);
    expect(of(0.4, 0.8), 'less than a round trip').to.equal(0);
  });

  it('takes the least of several runs, which nothing held up, unless the server itself varies', () => {
    const of = (wait: number, others: readonly object[]) =>
      graphOf(
        '<img src=/i.jpg>',
        [{ url: PAGE + 'i.jpg', bytes: 9, wait, connect: 42, ssl: 30, lens: { otherRuns: others } }],
        {},
      ).fetches[1];
    expect(of(161, [{ waitMs: 21, connectMs: 2, tlsMs: 5 }, { waitMs: 25 }])).to.include({
      serverMs: 20,
      setupMs: 1 + 4,
    });
    expect(of(21, [{ waitMs: 61 }, { waitMs: 31 }])?.serverMs).to.equal(20);
    // 900 ms at one time and 101 at another: no stall of the recording machine.
    expect(of(901, [{ waitMs: 101 }, { waitMs: 301 }])?.serverMs).to.equal(300);
    expect(of(21, [])?.serverMs).to.equal(20);
  });

  it('takes a file that came at once in one run for one that is not worked out', () => {
    const loads = ['a', 'b'].map((n, i) => ({
      url: `${PAGE}${n}.jpg`,
      bytes: 9,
      wait: [41, 901][i],
      lens: { otherRuns: i === 0 ? [] : [{ waitMs: 66 }, { waitMs: 301 }] },
    }));
    expect(
      graphOf('<img src=/a.jpg><img src=/b.jpg>', loads, {})
        .fetches.slice(1)
        .map((f) => f.serverMs),
    ).to.deep.equal([40, 40]);
  });

  it('takes waits of files of one host that lie as near as clocks do for the same', () => {
    const waits = [41, 261, 264, 258, 500];
    const loads = waits.map((wait, i) => ({ url: `${PAGE}${i}.jpg`, bytes: 9, wait }));
    const g = graphOf(waits.map((_, i) => `<img src=/${i}.jpg>`).join(''), loads, {});
    expect(g.fetches.slice(1).map((f) => f.serverMs)).to.deep.equal([40, 257, 257, 257, 499]);
  });

  it('marks what is drawn in the first screen, and what a browser refused', () => {
    const g = graphOf(
      '<body><img src=/a.jpg><img src=/b.jpg><script src=http://a.example/x.js></script>',
      [
        { url: PAGE + 'a.jpg', bytes: 9, start: 30 },
        { url: PAGE + 'b.jpg', bytes: 9, start: 31 },
        { url: 'http://a.example/x.js', status: 0, start: 32, lens: { kind: 'script', mixedBlocked: true } },
      ],
      {
        pictures: [picture(PAGE + 'a.jpg'), picture(PAGE + 'b.jpg', { box: { x: 0, y: 2000, width: 10, height: 10 } })],
      },
    );
    expect([fetchOf(g, 'a.jpg').inViewport, fetchOf(g, 'b.jpg').inViewport]).to.deep.equal([true, false]);
    expect(fetchOf(g, 'x.js').refused).to.equal(true);
  });

  it('places offsets in decoded bytes, also with characters of several bytes', () => {
    const html = `<body><p>${'é'.repeat(500)}<img src=/i.jpg>`;
    const g = graphOf(html, [{ url: PAGE + 'i.jpg', bytes: 9, start: 30 }]);
    const bytes = new TextEncoder().encode(html).length;
    // The maker counts characters as size: offsets stay inside whatever size the file states.
    expect((fetchOf(g, 'i.jpg').discovery as { offset: number }).offset).to.be.at.most(Math.max(bytes, html.length));
    expect(g.document.bodyOffset).to.be.below(g.document.contentOffset);
  });
});

describe('core/load/hero', () => {
  const hero = (html: string, loads: readonly MadeLoad[], facts?: MadeFacts) =>
    findHero(capture(har([{ url: PAGE, body: html }, ...loads], facts)).page);

  it('is the last largest paint, with the element of the source', () => {
    const h = hero('<body><p>x</p><img src=/h.jpg>', [{ url: PAGE + 'h.jpg', bytes: 9 }], {
      hero: { timeMs: 1, size: 1, tag: 'img', url: PAGE + 'h.jpg', path: at('img:nth-of-type(1)') },
    });
    expect(h).to.include({ kind: 'image', seen: true });
    expect(h.element?.tag).to.equal('img');
  });

  it('finds the element by its address when scripts have moved it', () => {
    const h = hero('<body><img data-src=/h.jpg>', [{ url: PAGE + 'h.jpg', bytes: 9 }], {
      hero: { timeMs: 1, size: 1, tag: 'img', url: PAGE + 'h.jpg', path: at('div:nth-of-type(9)>img:nth-of-type(1)') },
    });
    expect(h.element?.tag).to.equal('img');
  });

  it('follows a redirect to the file', () => {
    const h = hero(
      '<body><img src=/old.jpg>',
      [
        { url: PAGE + 'old.jpg', status: 301, redirectURL: PAGE + 'new.jpg' },
        { url: PAGE + 'new.jpg', bytes: 9, start: 30 },
      ],
      { hero: { timeMs: 1, size: 1, tag: 'img', url: PAGE + 'old.jpg', path: at('img:nth-of-type(1)') } },
    );
    expect(h.load?.url).to.equal(PAGE + 'new.jpg');
  });

  it('is guessed: the largest picture, else background, else text', () => {
    expect(
      hero('<body><img src=/s.jpg><img src=/h.jpg>', [
        { url: PAGE + 's.jpg', bytes: 9_000 },
        { url: PAGE + 'h.jpg', bytes: 90_000 },
      ]).url,
    ).to.equal(PAGE + 'h.jpg');
    expect(
      hero('<style>div{height:90px;background:url(/b.jpg)}</style><body><div></div>', [
        { url: PAGE + 'b.jpg', bytes: 90_000 },
      ]),
    ).to.include({ kind: 'background' });
    expect(hero('<body><h1>x</h1>', [])).to.include({ kind: 'text', tag: 'h1' });
  });
});

describe('core/load/replay: what the hero waited for', () => {
  const loader =
    '<html><head><link rel=stylesheet href=/s.css><script src=/head.js></script></head><body><h1>x</h1><img data-src=/h.jpg><script src=/loader.js></script></body></html>';
  const loads: MadeLoad[] = [
    { url: PAGE + 's.css', body: 'p{}'.repeat(4000), start: 30 },
    { url: PAGE + 'head.js', body: 'a', start: 31, wait: 250 },
    { url: PAGE + 'loader.js', body: 'x.dataset.src', start: 32 },
    { url: MEDIA + 'h.jpg', bytes: 80_000, start: 420 },
  ];
  const facts: MadeFacts = {
    onContentLoad: 410,
    hero: { timeMs: 500, size: 9, tag: 'img', url: MEDIA + 'h.jpg', path: at('img:nth-of-type(1)') },
    work: [{ kind: 'script', url: PAGE + 'loader.js', startMs: 330, durationMs: 5, phase: 'evaluate' }],
  };
  const g = graphOf(loader.replace('data-src=/h.jpg', `data-src=${MEDIA}h.jpg`), loads, { ...facts });

  it('names the chain from the page to the hero, in order', () => {
    const replay = simulate(g, phone);
    const names = chainNames(g, replay);
    expect(names[0]).to.equal('www.fernhollow.example/');
    expect(names.at(-1)).to.equal('h.jpg');
    expect(names).to.include('loader.js');
    for (let i = 1; i < replay.path.length; i++)
      expect(replay.path[i]?.toMs).to.be.at.least(replay.path[i - 1]?.fromMs ?? 0);
    expect(replay.path.at(-1)).to.include({ kind: 'paint' });
    expect(replay.path.at(-1)?.toMs).to.equal(replay.milestones.lcpMs);
  });

  it('gives the hero its place in the queue', () => {
    expect(simulate(g, phone).heroPlace).to.equal(5);
    const first = graphOf('<body><img src=/h.jpg>', [{ url: PAGE + 'h.jpg', bytes: 9_000, start: 30 }]);
    expect(simulate(first, phone).heroPlace).to.equal(2);
    expect(simulate(graphOf('<body><h1>x</h1>'), phone).heroPlace).to.equal(0);
  });
});
