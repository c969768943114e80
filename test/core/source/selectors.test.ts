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
    ['*', 16],
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
  ];
  for (const [selector, count] of cases)
    it(`${selector} matches ${count}`, () => expect(matched(selector)).to.have.length(count));

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
    expect(matched('p:has(a)')).to.deep.equal([]);
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
