import { expect } from 'chai';
import fc from 'fast-check';
import { parseDocument } from '../../../src/core/source/document';
import { readRules } from '../../../src/core/source/rules';
import { ElementTree, readSelectors } from '../../../src/core/source/selectors';

const PAGE = `<!doctype html><html><body class="home">
<header id="top"><nav class="menu main"><a href="/a" lang="en-GB">A</a><a href="/b">B</a><b>C</b></nav></header>
<main><section class="beds"><p class="first">1</p><p>2</p><p data-row="3">3</p><ul><li>x</li><li>y</li><li>z</li></ul></section></main>
</body></html>`;
const tree = new ElementTree(parseDocument(PAGE, 'https://www.fernhollow.example/'));

/** Texts of the start tags that a selector list matches. */
function matched(selectors: string): string[] {
  const found = readSelectors(selectors).flatMap((t) => tree.select(t));
  return [...new Set(found)].map((e) => PAGE.slice(e.start, e.startTagEnd));
}

describe('core/source/selectors (Selectors 4)', () => {
  const cases: [string, number][] = [
    ['p', 3],
    ['*', 17],
    ['#top', 1],
    ['.menu.main', 1],
    ['nav > a', 2],
    ['header a', 2],
    ['main > a', 0],
    ['a + a', 1],
    ['a ~ b', 1],
    ['p:first-child', 1],
    ['li:last-child', 1],
    ['li:nth-child(odd)', 2],
    ['li:nth-child(2n)', 1],
    ['li:nth-child(2)', 1],
    ['li:nth-of-type(n+2)', 2],
    ['p:not(.first)', 2],
    [':is(p, li):first-child', 2],
    ['[data-row]', 1],
    ['[data-row="3"]', 1],
    ['[lang|=en]', 1],
    ['[class~=main]', 1],
    ['[href^="/"]', 2],
    ['[href$=b]', 1],
    ['[href*=c]', 0],
    [':root', 1],
    ['p, li', 6],
    ['.Menu', 0],
    ['section:has(> ul)', 1],
    ['nav:has(+ main)', 0],
    ['li:nth-last-child(1)', 1],
    ['li:nth-last-child(-n+2)', 2],
    ['li:nth-child(2 of :not(:first-child))', 1],
    [':lang(en)', 1],
    ['b:empty', 0],
    ['p:is(.first, [data-row])', 2],
    [':where(nav, ul) > *', 6],
    ['p:not(.first, [data-row])', 1],
    ['li:only-child', 0],
    ['a:not(:hover)', 2],
    ['[LANG="EN-gb" i]', 1],
  ];
  for (const [selector, count] of cases)
    it(`${selector} matches ${count}`, () => expect(matched(selector)).to.have.length(count));

  for (const selector of [
    'svg|a',
    'input:checked',
    ':is(a:hover, b)',
    'p:unheard-of',
    ':host(.x)',
    'p:not(',
    '&.x',
    ':scope > p',
    'td || col',
  ])
    it(`${selector} is unknown, not without a match`, () => {
      expect(readSelectors(selector).some((t) => t.unknown)).to.equal(true);
    });

  it('matches elements that the parser adds, and names that are escaped', () => {
    const short = '<!doctype html><title>x</title><table><tr><td class="md:wide 2col">1</table>';
    const own = new ElementTree(parseDocument(short, 'https://www.fernhollow.example/'));
    const count = (selector: string) => readSelectors(selector).flatMap((t) => own.select(t)).length;
    for (const s of ['html', 'body', 'html > body > table', 'tbody > tr', ':root', '.md\\:wide', '.\\32 col'])
      expect(count(s), s).to.equal(1);
    expect(count('table > tr')).to.equal(0);
  });

  it('matches classes and ids in any case without a doctype', () => {
    const old = new ElementTree(parseDocument('<p class="Lead" id="Top">x', 'https://www.fernhollow.example/'));
    const select = (s: string) => readSelectors(s).flatMap((t) => old.select(t));
    expect([select('.lead').length, select('#TOP').length]).to.deep.equal([1, 1]);
  });

  it('weighs :is, :not, :has and :where', () => {
    const weight = (s: string) => readSelectors(s)[0]?.specificity;
    expect([':where(#a)', ':is(p, #a)', 'p:not(.b)', 'a:hover', 'p::before'].map(weight)).to.deep.equal([
      0, 1e6, 1001, 1001, 2,
    ]);
  });

  it('tells states and parts from plain selectors', () => {
    const [hover, before, old, plain] = readSelectors('a:hover, p::before, p:after, p');
    expect([hover?.state, before?.part, old?.part, plain?.state, plain?.part]).to.deep.equal([
      true,
      true,
      true,
      false,
      false,
    ]);
  });

  it('counts specificity (Selectors 4, section 17)', () => {
    const weights = ['#a', '.a.b', 'p.a', 'p', '*', ':where(#a)', 'ul > li'].map(
      (s) => readSelectors(s)[0]?.specificity,
    );
    expect(weights).to.deep.equal([1e6, 2000, 1001, 1, 0, 0, 2]);
  });

  it('matches nothing for what it cannot read, and never throws', () => {
    expect(readSelectors('p >')).to.satisfy((l: unknown[]) => l.length <= 1);
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        readSelectors(text).forEach((t) => tree.select(t));
      }),
      { numRuns: 300 },
    );
  });
});

describe('core/source/rules (CSS Syntax 3)', () => {
  it('lists rules with their places, media, fonts and animations', () => {
    const css = `/* x */ p { color: red; color: BLUE }
@media (min-width: 600px) { @media print { .a, .b { margin: 0 !important } } }
@font-face { font-family: "Garden"; src: url(g.woff2) }
@keyframes rise { from { opacity: 0 } to { opacity: 1 } }`;
    const { rules, named } = readRules(css);
    expect(rules.map((r) => [r.selectorText, r.media])).to.deep.equal([
      ['p', []],
      ['.a, .b', ['(min-width: 600px)', 'print']],
    ]);
    expect(rules[0]?.declarations.get('color')).to.equal('BLUE');
    expect(css.slice(rules[0]?.start, rules[0]?.end)).to.equal('p { color: red; color: BLUE }');
    expect(named.map((n) => [n.kind, n.name])).to.deep.equal([
      ['font-face', 'Garden'],
      ['keyframes', 'rise'],
    ]);
    expect(named[1]?.declarations.get('opacity')).to.equal('0');
  });

  it('writes the parent into nested rules (CSS Nesting 1)', () => {
    const css =
      '.a, #b { color: red; &:hover { x: y } .c & { x: y } > p { x: y } @media print { color: blue; i { x: y } } color: green }';
    expect(readRules(css).rules.map((r) => [r.selectorText, r.media.length])).to.deep.equal([
      ['.a, #b', 0],
      [':is(.a, #b):hover', 0],
      ['.c :is(.a, #b)', 0],
      [':is(.a, #b) > p', 0],
      ['.a, #b', 1],
      [':is(.a, #b) i', 1],
    ]);
    expect(readRules(css).rules[0]?.declarations.get('color')).to.equal('green');
    const [, , deep] = readRules('a{b{c{d:e}}}').rules;
    expect([deep?.selectorText, 'a{b{c{d:e}}}'.slice(deep?.start, deep?.end)]).to.deep.equal([
      ':is(:is(a) b) c',
      'c{d:e}',
    ]);
  });

  it('survives any text, and nesting without end', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (css) => {
        readRules(css);
      }),
      { numRuns: 300 },
    );
    expect(() => readRules('@media all{'.repeat(50_000))).not.to.throw();
    expect(() => readRules('a{'.repeat(50_000))).not.to.throw();
  });
});
