import { expect } from 'chai';
import { idleRules } from '../../../src/core/checks/blocking/styleUnused';
import { capture, har, PAGE } from '../../fixtures/har';

const HTML = `<!doctype html><title>x</title><main lang="en"><section class="beds"><p>1<p>2</section><ul><li>a<li>b</ul>
<p class="open"></p><svg><use href="#i"/></svg><input type="checkbox"></main>`;

/** Selectors of the rules that "Remove unused rules" would take out. */
function removed(css: string): string[] {
  const { page } = capture(
    har([
      { url: PAGE, body: HTML },
      { url: PAGE + 'a.css', body: css },
    ]),
  );
  const sheet = page.styles.find((s) => s.load);
  return sheet ? idleRules(page, sheet, 'page').map((r) => css.slice(r.start, r.end)) : [];
}

describe('core/checks/style-unused', () => {
  for (const live of [
    'section:has(> p){a:b}',
    'p:empty{a:b}',
    'li:nth-last-child(2){a:b}',
    ':lang(en) p{a:b}',
    ':is(.gone, .beds) p{a:b}',
    ':where(section, .gone){a:b}',
    'p:not(.gone, .open){a:b}',
    'svg|use{a:b}',
    'body{a:b}',
    'html > body > main{a:b}',
    'input:checked{a:b}',
    'li:is(:hover, :focus){a:b}',
    '.beds:unheard-of{a:b}',
    '.gone, .beds{a:b}',
    '.beds{color:red;&:has(p){a:b}}',
    '.beds{p{a:b}}',
    '@scope (.beds) {:scope{a:b}}',
    '@container (min-width:1px){.beds{a:b}}',
  ])
    it(`keeps ${live}`, () => expect(removed(live)).to.deep.equal([]));

  for (const dead of [
    '.gone{a:b}',
    'section:has(> ul){a:b}',
    'main > p:empty + p{a:b}',
    '.gone:hover{a:b}',
    '.gone{p{a:b}}',
  ])
    it(`takes out ${dead}`, () => expect(removed(dead)).to.deep.equal([dead]));

  it('keeps a rule for the sake of one nested in it', () => {
    expect(removed('.gone{a:b;p:not(&){c:d}}')).to.deep.equal([]);
  });

  it('keeps what only the source or only the rendered page has', () => {
    const value = har(
      [
        { url: PAGE, body: HTML },
        { url: PAGE + 'a.css', body: '.beds{a:b}.added{a:b}.gone{a:b}' },
      ],
      {},
    );
    const log = (value as { log: { pages: { _lens: { observations: object } }[] } }).log;
    Object.assign(log.pages[0]!._lens.observations, { renderedHtml: '<!doctype html><p class="added">x' });
    const { page } = capture(value);
    const [sheet] = page.styles;
    expect(sheet && idleRules(page, sheet, 'page').map((r) => r.selectorText)).to.deep.equal(['.gone']);
  });
});
