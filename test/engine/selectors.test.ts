import { expect } from 'chai';
import { chromium, type Browser } from 'playwright-core';
import { parseDocument } from '../../src/core/source/document';
import { ElementTree, readSelectors } from '../../src/core/source/selectors';
import { browserSwitches, findChromium } from '../../src/engine/record/chromium';

const HTML = `<!doctype html><html lang="en"><body class="home md:wide"><header id="top"><nav class="menu main">
<a href="/a" lang="en-GB">A</a><a href="/b">B</a><b>C</b></nav></header><main><section class="beds"><p class="first">1</p>
<p>2</p><p data-row="3"></p><ul><li>x</li><li class="on">y</li><li>z</li></ul></section><table><tr><td>1<td>2</table>
<form><input type="TEXT" required><select><option>1</select><fieldset disabled><input></fieldset></form></main></body></html>`;
const SIMPLE = [
  'p',
  '*',
  '.beds',
  '#top',
  'li',
  '[href]',
  '[data-row="3"]',
  '[type=text]',
  ':root',
  'a',
  'tbody',
  '.md\\:wide',
];
const PSEUDO = [
  ':first-child',
  ':last-child',
  ':only-child',
  ':first-of-type',
  ':last-of-type',
  ':nth-child(2n+1)',
  ':nth-last-child(-n+2)',
  ':nth-of-type(2)',
  ':nth-child(1 of :not(b))',
  ':not(.first, .on)',
  ':is(p, li):not(:hover)',
  ':where(.on, .first)',
  ':has(> *)',
  ':has(+ *)',
  ':lang(en)',
  ':any-link',
];

describe('core/source/selectors against Chromium', () => {
  let browser: Browser;
  before(async () => {
    browser = await chromium.launch({ executablePath: findChromium(), args: browserSwitches([]) });
  });
  after(() => browser.close());

  it('matches the same elements, for every pair of simple selectors, combinators and pseudo-classes', async () => {
    const selectors = SIMPLE.flatMap((a) => [
      ...PSEUDO.map((p) => (a === '*' ? p : a + p)),
      ...SIMPLE.flatMap((b) => [`${a} ${b}`, `${a} > ${b}`, `${a} + ${b}`, `${a} ~ ${b}`]),
    ]);
    const page = await browser.newPage();
    await page.setContent(HTML);
    const theirs = await page.evaluate(
      (list) =>
        list.map((s) =>
          [...document.querySelectorAll(s)].map((e) => {
            const steps: string[] = [];
            for (let at: Element | null = e; at; at = at.parentElement) {
              const tag = at.localName;
              const n = at.parentElement
                ? [...at.parentElement.children].filter((c) => c.localName === tag).indexOf(at)
                : 0;
              steps.unshift(`${tag}:nth-of-type(${n + 1})`);
            }
            return steps.join('>');
          }),
        ),
      selectors,
    );
    const tree = new ElementTree(parseDocument(HTML, 'https://www.fernhollow.example/'));
    const wrong = selectors.filter((s, i) => {
      const tests = readSelectors(s);
      // The whole document is asked here, so nothing may be unknown.
      const ours = tests.some((t) => t.unknown) ? ['unknown'] : tests.flatMap((t) => tree.select(t)).map((e) => e.path);
      return ours.sort().join() !== theirs[i]?.sort().join();
    });
    expect(wrong).to.deep.equal([]);
  });
});
