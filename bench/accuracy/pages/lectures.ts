import { BASE_CSS, busy, css, font, HEAD, idleRules, js, page, text, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/lectures/`;
const TYPE = 'https://type.letterpress.example';
const FILES = 'https://files.letterpress.example';
const COUNT = 'https://count.petalmetrics.example';

/** The hero is text in a font that two foreign hosts stand before. */
export const lectures: TruthPage = {
  name: 'lectures',
  held: true,
  about: 'text hero behind a font of other hosts, a foreign script in the head',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 40 },
    { name: 'type.letterpress.example', protocol: 'h2', order: 'urgency', waitMs: 30 },
    { name: 'files.letterpress.example', protocol: 'h2', order: 'urgency', waitMs: 20 },
    { name: 'count.petalmetrics.example', protocol: 'h2', order: 'fair', waitMs: 220 },
  ],
  variants: [
    { name: 'font preloaded', fixes: [`font-preload ${FILES}/serif.woff2`] },
    { name: 'font swapped', fixes: [`font-swap ${FILES}/serif.woff2`] },
    { name: 'font host preconnected', fixes: [`preconnect ${FILES}/`] },
    { name: 'count script async', fixes: [`script-async ${COUNT}/count.js`] },
    { name: 'style self-hosted', fixes: [`self-host ${TYPE}/serif.css`] },
    { name: 'async and swapped', fixes: [`script-async ${COUNT}/count.js`, `font-swap ${FILES}/serif.woff2`] },
  ],
  async files(): Promise<Files> {
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Lectures</title>
<link rel="stylesheet" href="/css/site.css"><link rel="stylesheet" href="${TYPE}/serif.css"><script src="${COUNT}/count.js"></script></head>
<body>${HEAD}<main><h1 class="lead">${words(34, 9)}</h1>${text(6, 70, 8)}</main><script src="/js/dates.js" defer></script></body></html>`,
          { waitMs: 110 },
        ),
      ],
      [
        `${WWW}/css/site.css`,
        css(
          `${BASE_CSS}\n.lead{font-size:2.2rem;line-height:1.3;font-family:"Lecture Serif"}\n${idleRules(120, 'talk')}`,
        ),
      ],
      [
        `${TYPE}/serif.css`,
        css(
          `@font-face{font-family:"Lecture Serif";src:url("${FILES}/serif.woff2") format("woff2");font-weight:200 900}`,
        ),
      ],
      [`${FILES}/serif.woff2`, font('@fontsource-variable/source-serif-4', 'source-serif-4-latin-wght-normal.woff2')],
      [`${COUNT}/count.js`, js(busy(25, 'count') + '/*' + words(1800, 11) + '*/')],
      [`${WWW}/js/dates.js`, js(busy(10, 'dates'))],
    ]);
  },
};
