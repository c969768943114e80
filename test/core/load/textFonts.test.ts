import { expect } from 'chai';
import { familiesOfShorthand } from '../../../src/core/load/textFonts';
import { auditOf, PAGE } from '../../fixtures/har';

const FONT = 'https://fonts.example/fern.woff2';
const HERO = {
  timeMs: 500,
  size: 90_000,
  tag: 'h1',
  path: 'html:nth-of-type(1)>body:nth-of-type(1)>h1:nth-of-type(1)',
};

/** Whether the hero's text waits for the font, by the rules of a sheet. */
function waits(rules: string, { display = '', heading = 'Plant sale' } = {}): boolean {
  const face = `@font-face{font-family:Fern;src:url(${FONT}) format("woff2");${display}}`;
  const { graph } = auditOf(
    `<!doctype html><html><head><link rel="stylesheet" href="/s.css"></head><body><h1>${heading}</h1><p>x</p></body></html>`,
    [
      { url: `${PAGE}s.css`, body: face + rules, start: 40 },
      { url: FONT, bytes: 40_000, mime: 'font/woff2', start: 120, lens: { kind: 'font' } },
    ],
    { hero: HERO },
  );
  return graph.hero.font >= 0;
}

describe('core/load/textFonts', () => {
  it('finds the font of the hero however it is declared', () => {
    expect(waits('h1{font-family:Fern,serif}')).to.equal(true);
    expect(waits('body{font-family:"Fern",serif}'), 'inherited').to.equal(true);
    expect(waits('h1{font:italic 600 clamp(2rem, 5vw, 4rem)/1.1 Fern, serif}'), 'shorthand').to.equal(true);
    expect(waits(':root{--display:"Fern",serif} h1{font-family:var(--display)}'), 'custom property').to.equal(true);
    expect(waits(':root{--a:var(--b);--b:Fern} h1{font-family:var(--a)}'), 'one through another').to.equal(true);
    expect(waits('h1{font-family:var(--none, Fern)}'), 'fallback').to.equal(true);
    expect(waits('h1 span{font-family:Fern}', { heading: '<span>Plant sale</span>' }), 'inside').to.equal(true);
  });

  it('does not wait where the font hides nothing, or is another one', () => {
    expect(waits('h1{font-family:Fern}', { display: 'font-display:swap' })).to.equal(false);
    expect(waits('h1{font-family:Georgia,Fern}')).to.equal(false);
    expect(waits(':root{--a:var(--a)} h1{font-family:var(--a)}'), 'in a circle').to.equal(false);
  });

  it('shows a drawing of the first screen before the font of all text is there (Paint Timing, 2)', () => {
    const svg = 'html:nth-of-type(1)>body:nth-of-type(1)>svg:nth-of-type(1)';
    const font = (markup: string, firstScreen: string[]) =>
      auditOf(
        `<!doctype html><html><head><style>@font-face{font-family:Fern;src:url(${FONT})}body{font-family:Fern}</style></head><body><h1>Plant sale</h1>${markup}</body></html>`,
        [{ url: FONT, bytes: 40_000, mime: 'font/woff2', start: 120, lens: { kind: 'font' } }],
        { hero: HERO, firstScreen },
      ).graph.contentFont;
    const drawing = '<svg viewBox="0 0 9 9" width="200" height="80"><path d="M0 0h9v9z"/></svg>';
    expect(font('', [])).to.equal(1);
    expect(font(drawing, [svg])).to.equal(-1);
    expect(font(drawing, []), 'further down').to.equal(1);
    expect(font('<svg width="0" height="0"><symbol id="a"/></svg>', [svg]), 'without size').to.equal(1);
    expect(font(`<div hidden>${drawing}</div>`, [svg.replace('>svg', '>div:nth-of-type(1)>svg')]), 'hidden').to.equal(
      1,
    );
  });

  it('reads the families of a shorthand behind size and line height (CSS Fonts 4, 2.7)', () => {
    expect(familiesOfShorthand('700 3rem/1.1 "Fern Display", serif')).to.equal('"Fern Display", serif');
    expect(familiesOfShorthand('small-caps large Georgia')).to.equal('Georgia');
    expect(familiesOfShorthand('16px / 1.5 Fern')).to.equal('Fern');
    expect(familiesOfShorthand('caption')).to.equal(undefined);
    expect(familiesOfShorthand(undefined)).to.equal(undefined);
  });
});
