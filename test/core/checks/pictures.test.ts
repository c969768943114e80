import { expect } from 'chai';
import type { Finding, MeasuredSizes } from '../../../src/core/checks/finding';
import { auditPage } from '../../../src/core/plan/audit';
import { keepsRoom } from '../../../src/core/source/keepsRoom';
import { findHero } from '../../../src/core/load/hero';
import { auditOf, capture, har, PAGE, picture, type MadeFacts, type MadeLoad } from '../../fixtures/har';

const BODY = 'html:nth-of-type(1)>body:nth-of-type(1)';
const html = (body: string, head = '') =>
  `<!doctype html><html><head><title>x</title>${head}</head><body>${body}</body></html>`;

function audit(
  body: string,
  loads: readonly MadeLoad[],
  facts: MadeFacts,
  sizes: Partial<MeasuredSizes> = {},
  head = '',
) {
  const { page } = capture(har([{ url: PAGE, body: html(body, head) }, ...loads], facts));
  return auditPage(page, { compressed: new Map(), resized: new Map(), ...sizes });
}
const found = (a: { findings: readonly Finding[] }, check: string) => a.findings.filter((f) => f.check === check);
const img = (name: string, bytes = 120_000, start = 40): MadeLoad => ({ url: PAGE + name, bytes, start });
const large = { naturalWidth: 3000, naturalHeight: 2000 };

describe('checks of pictures', () => {
  it('judges a picture that is used twice by its largest use', () => {
    const pictures = [
      picture(PAGE + 'a.jpg', { ...large, box: { x: 0, y: 0, width: 40, height: 27 } }),
      picture(PAGE + 'a.jpg', { ...large, box: { x: 0, y: 300, width: 400, height: 267 } }),
    ];
    const a = audit('<img src=/a.jpg><img src=/a.jpg>', [img('a.jpg')], { pictures });
    const [f] = found(a, 'image-oversized');
    expect(f?.evidence.numbers).to.include({ neededWidth: 1001, neededHeight: 668 });
  });

  it('lets sprites, patterns and broken images be', () => {
    const none = (values: object, style = '') =>
      found(
        audit(
          `<p class=s>x<img src=/a.jpg>`,
          [img('a.jpg')],
          { pictures: [picture(PAGE + 'a.jpg', { ...large, ...values })] },
          {},
          style,
        ),
        'image-oversized',
      );
    expect(none({ use: 'background', path: `${BODY}>p:nth-of-type(1)`, fit: 'auto' })).to.deep.equal([]);
    expect(none({ use: 'background', path: `${BODY}>p:nth-of-type(1)`, fit: 'cover' })).to.have.length(1);
    expect(
      none(
        { use: 'background', path: `${BODY}>p:nth-of-type(1)` },
        '<style>.s{background:url(/a.jpg) -40px 0}</style>',
      ),
    ).to.deep.equal([]);
    expect(none({ naturalWidth: 0, naturalHeight: 0, box: { x: 0, y: 0, width: 16, height: 16 } })).to.deep.equal([]);
  });

  it('tells what too many pixels cost from what a heavy file costs', () => {
    const pictures = [
      picture(PAGE + 'a.jpg', { naturalWidth: 1020, naturalHeight: 612, box: { x: 0, y: 0, width: 300, height: 180 } }),
    ];
    const a = audit(
      '<img src=/a.jpg>',
      [img('a.jpg', 300_000)],
      { pictures },
      {
        resized: new Map([[1, 60_000]]),
        reencoded: new Map([[1, { bytes: 110_000, similarity: 0.98 }]]),
      },
    );
    expect(found(a, 'image-heavy')[0]?.evidence.numbers).to.include({ savedBytes: 190_000, similarity: 0.98 });
    expect(found(a, 'image-oversized')[0]?.evidence.numbers).to.include({ savedBytes: 50_000 });
    const fixes = a.fixes.filter((f) => f.kind === 'image-resize');
    expect(fixes).to.have.length(1);
    expect(fixes[0]?.findings).to.have.length(2);
    expect(fixes[0]?.values.bytes).to.equal(60_000);
  });

  it('calls a hero hidden only for a style that hides it', () => {
    const at = { timeMs: 2000, size: 9000, tag: 'img', url: PAGE + 'a.jpg', path: `${BODY}>img:nth-of-type(1)` };
    const late = (style: string) =>
      found(audit('<img src=/a.jpg>', [img('a.jpg')], { hero: at, lcpMs: 2000 }, {}, style), 'hero-hidden');
    expect(late('')).to.deep.equal([]);
    expect(late('<style>img{opacity:0}</style>')).to.have.length(1);
  });

  it('names a hero behind a placeholder by its real file', () => {
    const hero = {
      timeMs: 90,
      size: 9,
      tag: 'img',
      url: 'data:image/gif;base64,R0lGOD',
      path: `${BODY}>img:nth-of-type(1)`,
    };
    const { page } = capture(
      har([{ url: PAGE, body: html('<img src="data:image/gif;base64,R0lGOD" data-src="/a.jpg">') }, img('a.jpg')], {
        hero,
      }),
    );
    expect(findHero(page)).to.deep.include({ url: PAGE + 'a.jpg', kind: 'image' });
    expect(findHero(page).load?.url).to.equal(PAGE + 'a.jpg');
  });

  it('keeps no room for a width in per cent', () => {
    const { page } = capture(
      har([{ url: PAGE, body: html('<img width="100%" height="50%"><img width=40 height="30px">') }]),
    );
    const [a, b] = page.document!.elements.filter((e) => e.tag === 'img');
    expect([keepsRoom(page, a!), keepsRoom(page, b!)]).to.deep.equal([false, true]);
  });

  it('names every file of a group, slides beside the screen among them', () => {
    const names = ['a.jpg', 'b.jpg', 'c.jpg'];
    const at = (x: number, y: number, path: number) => ({
      path: `${BODY}>img:nth-of-type(${path})`,
      box: { x, y, width: 400, height: 240 },
    });
    const a = audit(
      names.map((n) => `<img src=/${n}>`).join('\n'),
      names.map((n) => img(n)),
      {
        hero: { timeMs: 9, size: 9, tag: 'title', path: 'html:nth-of-type(1)' },
        pictures: [
          picture(PAGE + 'a.jpg', at(400, 0, 1)),
          picture(PAGE + 'b.jpg', at(-400, 0, 2)),
          picture(PAGE + 'c.jpg', at(0, 900, 3)),
        ],
      },
    );
    const [f] = found(a, 'offscreen-eager');
    expect(f?.evidence.files?.map((l) => l.url)).to.deep.equal(names.map((n) => PAGE + n));
    expect(f?.evidence.files?.map((l) => l.line)).to.deep.equal([1, 2, 3]);
  });
});

describe('checks of what the hero waits for', () => {
  const CDN = 'https://cdn.petalmetrics.example/';
  const built = {
    timeMs: 900,
    size: 9000,
    tag: 'img',
    url: PAGE + 'a.jpg',
    path: `${BODY}>div:nth-of-type(1)>img:nth-of-type(1)`,
  };

  it('offers an early connection to the host of the script that builds it', () => {
    const a = audit(
      '<div></div><script>inject()</script>',
      [
        {
          url: CDN + 'build.js',
          body: 'x()',
          start: 300,
          connect: 80,
          lens: { initiator: { type: 'script', url: PAGE } },
        },
        { ...img('a.jpg', 90_000, 600), lens: { initiator: { type: 'script', url: CDN + 'build.js' } } },
      ],
      { hero: built },
    );
    expect(found(a, 'hero-other-host').map((f) => f.target)).to.deep.equal([CDN + 'build.js']);
    expect(a.fixes.filter((f) => f.kind === 'preconnect').map((f) => f.target)).to.deep.equal([CDN]);
  });

  it('tells of an early connection that the hero cannot use, for it is of the other kind (Fetch, 2.6)', () => {
    const from = (link: string, attributes: string) =>
      found(
        auditOf(
          html(`<img ${attributes} src="${CDN}a.jpg">`),
          [{ url: CDN + 'a.jpg', bytes: 90_000, start: 300, connect: 80 }],
          { hero: { ...built, url: CDN + 'a.jpg', path: `${BODY}>img:nth-of-type(1)` } },
          PAGE,
          { headers: { link: `<${CDN}>; rel=preconnect${link}` } },
        ),
        'hero-other-host',
      ).map((f) => f.title);
    expect(from('', ''), 'of the right kind').to.deep.equal([]);
    expect(from('; crossorigin', 'crossorigin'), 'of the right kind').to.deep.equal([]);
    expect(from('', 'crossorigin')[0]).to.match(
      /cannot use the early connection to .+: its preconnect lacks crossorigin/,
    );
    expect(from('; crossorigin', '')[0]).to.match(/its preconnect should not have crossorigin/);
  });

  it('reports the synchronous scripts that a built hero waits for', () => {
    const a = audit(
      '<div></div><script src=/first.js></script><script src=/build.js></script><script src=/after.js></script>',
      [
        { url: PAGE + 'first.js', body: 'x()', start: 10 },
        { url: PAGE + 'build.js', body: 'x()', start: 11 },
        { url: PAGE + 'after.js', body: 'x()', start: 12 },
        { ...img('a.jpg', 90_000, 600), lens: { initiator: { type: 'script', url: PAGE + 'build.js' } } },
      ],
      { hero: built },
    );
    expect(found(a, 'script-blocking').map((f) => f.target)).to.deep.equal([PAGE + 'first.js', PAGE + 'build.js']);
  });

  it('counts small files of a host whose compression is off with that host', () => {
    const a = audit(
      '<p>x',
      [
        { url: CDN + 'a.css', body: 'p{color:red}'.repeat(900), start: 10 },
        { url: CDN + 'b.css', body: 'p{color:red}'.repeat(30), start: 11 },
        { url: PAGE + 'c.css', body: 'p{color:red}'.repeat(30), start: 12 },
      ],
      {},
    );
    expect(found(a, 'text-uncompressed').map((f) => f.target)).to.deep.equal([CDN + 'a.css', CDN + 'b.css']);
    expect(new Set(found(a, 'text-uncompressed').map((f) => f.cause)).size).to.equal(1);
  });

  it('hosts third-party files instead of editing them', () => {
    const a = audit(
      '<p>x',
      [{ url: CDN + 'a.css', body: '.x{color:red}'.repeat(3000), start: 10 }],
      {},
      {},
      `<link rel=stylesheet href="${CDN}a.css">`,
    );
    const kinds = a.fixes.filter((f) => f.target === CDN + 'a.css').map((f) => f.kind);
    expect(kinds).to.include('self-host').and.not.to.include('style-remove-unused');
    expect(a.fixes.find((f) => f.kind === 'text-compress')?.thirdParty).to.equal('cdn.petalmetrics.example');
  });
});
