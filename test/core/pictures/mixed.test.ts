import { expect } from 'chai';
import fc from 'fast-check';
import { parseFragment } from 'parse5';
import type { Finding } from '../../../src/core/checks/finding';
import { mixedPicture } from '../../../src/core/pictures/mixed';
import { versionMarkup, versionName } from '../../../src/core/pictures/versionMarkup';
import type { HttpsVersion } from '../../../src/core/site/httpsVersion';

const finding = (
  check: string,
  target: string,
  values: Partial<Finding> = {},
  numbers: Record<string, number> = {},
  status?: number,
): Finding => ({
  id: `${check} ${target}`,
  check,
  concern: 'mixed',
  harm: 'exposed',
  page: 'https://www.fernhollow.example/',
  target,
  cause: target,
  evidence: { numbers, ...(status !== undefined && { load: { index: 1, url: target, status, bytes: 0 } }) },
  title: 'a title',
  plain: '',
  ...values,
});
const A = 'http://media.fernhollow.example/a.jpg';
const version = (url: string, verdict: HttpsVersion['verdict']): [string, HttpsVersion] => [
  url,
  { url, own: true, pages: 1, verdict, says: '' },
];

describe('core/pictures: mixed content', () => {
  const cell = (f: Finding, versions: [string, HttpsVersion][] = []) =>
    mixedPicture([{ captureId: 1, page: f.page, findings: [f] }], new Map(versions)).pages[0]?.cells[0]?.items[0];

  it('says what a visitor meets (Mixed Content, 4 and 5)', () => {
    expect(cell(finding('mixed-markup', A, {}, { upgradeable: 1 }, 200))).to.include({
      meets: 'upgraded',
      written: 'markup',
    });
    expect(cell(finding('mixed-markup', A, {}, { upgradeable: 1 }, 404))).to.include({ meets: 'upgrade fails' });
    expect(cell(finding('mixed-markup', A, {}, { upgradeable: 1 }), [version(A, 'no https')])).to.include({
      meets: 'upgrade fails',
      https: 'no https',
    });
    expect(cell(finding('mixed-markup', A, { harm: 'broken' }))).to.include({ meets: 'blocked' });
    expect(cell(finding('mixed-load', A, {}, { refused: 1 }))).to.include({ meets: 'blocked', written: 'script' });
    expect(cell(finding('mixed-load', A, { title: 'A redirect goes through http' }))).to.include({
      written: 'redirect',
    });
    expect(cell(finding('mixed-style', A, { harm: 'tidy' }))).to.include({ meets: 'masked', written: 'style' });
    expect(cell(finding('mixed-form', A, { harm: 'broken' }))).to.include({ meets: 'allowed', written: 'form' });
    expect(cell(finding('mixed-masked', '*'))).to.equal(undefined);
    expect(cell(finding('mixed-load', 'ws://media.fernhollow.example/', { harm: 'broken' }))).to.include({
      meets: 'blocked',
    });
  });

  it('puts the worst page first, and counts those without', () => {
    const found = mixedPicture(
      [
        { captureId: 1, page: 'https://www.fernhollow.example/a', findings: [finding('mixed-markup', A, {}, {}, 200)] },
        {
          captureId: 2,
          page: 'https://www.fernhollow.example/b',
          findings: [
            finding('mixed-markup', A, {}, {}, 200),
            finding('mixed-markup', 'http://maps.lanefinder.example/x.js', { harm: 'broken' }),
          ],
        },
        { captureId: 3, page: 'https://www.fernhollow.example/c', findings: [] },
      ],
      new Map(),
    );
    expect(found.pages.map((p) => p.captureId)).to.deep.equal([2, 1]);
    expect(found.hosts).to.deep.equal(['media.fernhollow.example', 'maps.lanefinder.example']);
    expect(found.clean).to.equal(1);
  });
});

describe('core/pictures: markup of re-encoded pictures', () => {
  const versions = [
    { format: 'avif', width: 1000, height: 600, bytes: 1, quality: 55 },
    { format: 'avif', width: 640, height: 384, bytes: 1, quality: 55 },
    { format: 'webp', width: 1000, height: 600, bytes: 1, quality: 72 },
  ] as const;
  const drawn = [
    { device: 'phone', width: 400, height: 240, screenWidth: 400, density: 2.5 },
    { device: 'desktop', width: 640, height: 384, screenWidth: 1366, density: 1 },
  ] as const;

  it('offers AVIF, then WebP, then the original, each at its widths', () => {
    expect(versionMarkup('https://media.fernhollow.example/p/fern dawn.jpg', 'A fern', drawn, versions)).to.equal(
      [
        '<picture>',
        '  <source type="image/avif" srcset="fern-20dawn-640.avif 640w, fern-20dawn-1000.avif 1000w" sizes="(max-width: 700px) 100vw, 640px">',
        '  <source type="image/webp" srcset="fern-20dawn-1000.webp 1000w" sizes="(max-width: 700px) 100vw, 640px">',
        '  <img src="https://media.fernhollow.example/p/fern dawn.jpg" width="640" height="384" alt="A fern">',
        '</picture>',
      ].join('\n'),
    );
    expect(versionName('https://media.fernhollow.example/', { width: 5, format: 'webp' })).to.match(
      /^[\w.-]+-5\.webp$/,
    );
  });

  it('means the same after parsing, whatever address and text hold', () => {
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true }), fc.string({ unit: 'grapheme' }), (url, alt) => {
        fc.pre(!/[\0\r]/.test(alt));
        const picture = parseFragment(versionMarkup(url, alt, drawn, versions)).childNodes[0] as {
          childNodes: { nodeName: string; attrs?: { name: string; value: string }[] }[];
        };
        const img = picture.childNodes.find((n) => n.nodeName === 'img');
        expect(img?.attrs?.find((a) => a.name === 'alt')?.value).to.equal(alt);
        expect(img?.attrs?.find((a) => a.name === 'src')?.value).to.equal(url);
      }),
    );
  });
});
