import { expect } from 'chai';
import fc from 'fast-check';
import sharp from 'sharp';
import { readLength } from '../../../src/core/source/lengths';
import { mediaMatches, neverMatches } from '../../../src/core/source/media';
import { pictureSize } from '../../../src/core/source/pictureSize';

const PHONE = { widthPx: 400, heightPx: 860, density: 2.5, touch: true };
const DESKTOP = { widthPx: 1366, heightPx: 768, density: 1, touch: false };

describe('core/source/media (Media Queries 4 and 5)', () => {
  const cases: [string, boolean, boolean][] = [
    ['', true, true],
    ['all', true, true],
    ['print', false, false],
    ['not print', true, true],
    ['(max-width: 600px)', true, false],
    ['(min-width: 37.5em)', false, true],
    ['(width >= 700px)', false, true],
    ['(300px <= width <= 500px)', true, false],
    ['(orientation: portrait)', true, false],
    ['(orientation: landscape)', false, true],
    ['(prefers-color-scheme: dark)', false, false],
    ['(prefers-reduced-motion: reduce)', false, false],
    ['(hover: hover)', false, true],
    ['(pointer: coarse)', true, false],
    ['(min-resolution: 2dppx)', true, false],
    ['(min-resolution: 144dpi)', true, false],
    ['print, (max-width: 600px)', true, false],
    ['not all and (max-width: 600px)', false, true],
    ['handheld', false, false],
    ['(some-new-thing: 3)', false, false],
  ];
  for (const [media, phone, desktop] of cases)
    it(`"${media}": phone ${phone}, desktop ${desktop}`, () => {
      expect([mediaMatches(media, PHONE), mediaMatches(media, DESKTOP)]).to.deep.equal([phone, desktop]);
    });

  it('knows what no screen is', () => {
    for (const media of ['handheld', 'tv, projection', '(min-width: 900px) and (max-width: 600px)', '(max-width: 0px)'])
      expect(neverMatches(media), media).to.equal(true);
    for (const media of [undefined, '', 'print', 'screen', 'handheld, screen', '(min-width: 1px)'])
      expect(neverMatches(media), media).to.equal(false);
  });

  it('never throws', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 80 }), (text) => {
        mediaMatches(text, PHONE);
        neverMatches(text);
      }),
    );
  });
});

describe('core/source/lengths (CSS Values 4)', () => {
  const cases: [string, number | undefined][] = [
    ['12px', 12],
    ['2em', 40],
    ['2rem', 32],
    ['50%', 200],
    ['10vw', 40],
    ['50vh', 430],
    ['calc(100% - 2 * 8px)', 384],
    ['calc((100% - 20px) / 2)', 190],
    ['max(50%, 10em)', 200],
    ['-1.5em', -30],
    ['1e2px', 100],
    ['calc(2 * 3)', undefined],
    ['calc(1px * 1px)', undefined],
    ['calc(1px +)', undefined],
    ['calc(100% - 20px)', 380],
    ['min(100%, 300px)', 300],
    ['clamp(10px, 50%, 120px)', 120],
    ['0', 0],
    ['auto', undefined],
    ['', undefined],
  ];
  for (const [text, px] of cases)
    it(`${text || 'nothing'} is ${px}`, () => {
      expect(readLength(text, { percentPx: 400, fontPx: 20, widthPx: 400, heightPx: 860 })).to.equal(px);
    });
});

describe('core/source/pictureSize', () => {
  const made = sharp({ create: { width: 37, height: 21, channels: 3, background: '#345' } });
  for (const format of ['png', 'jpeg', 'webp', 'gif', 'avif'] as const)
    it(`reads ${format}`, async () => {
      expect(pictureSize(await made.clone().toFormat(format).toBuffer())).to.deep.equal({ width: 37, height: 21 });
    });

  it('reads WebP of all three kinds', async () => {
    const lossless = await made.clone().webp({ lossless: true }).toBuffer();
    const alpha = await sharp({ create: { width: 37, height: 21, channels: 4, background: '#3458' } })
      .webp()
      .toBuffer();
    expect(pictureSize(lossless)).to.deep.equal({ width: 37, height: 21 });
    expect(pictureSize(alpha)).to.deep.equal({ width: 37, height: 21 });
  });

  it('reads SVG by its size or its viewBox', () => {
    const svg = (attributes: string) =>
      pictureSize(new TextEncoder().encode(`<?xml version="1.0"?>\n<svg ${attributes}>`));
    expect(svg('width="30" height="20"')).to.deep.equal({ width: 30, height: 20 });
    expect(svg('viewBox="0 0 300 200"')).to.deep.equal({ width: 300, height: 200 });
    expect(svg('class="x"')).to.equal(undefined);
  });

  it('is not misled by other bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        pictureSize(bytes);
      }),
    );
    expect(pictureSize(new Uint8Array(0))).to.equal(undefined);
  });
});
