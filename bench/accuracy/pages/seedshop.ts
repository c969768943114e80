import {
  BASE_CSS,
  BOOTSTRAP_CSS,
  busy,
  css,
  font,
  HEAD,
  js,
  JQUERY,
  names,
  page,
  photo,
  text,
  words,
  WWW,
} from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/seeds/`;
const STATIC = 'https://static.fernhollow.example';
const FONT = `${STATIC}/f/sans.woff2`;

/** A list of goods: every picture is lazy, the first as well; libraries stand in the head, a font of its own comes late. */
export const seedshop: TruthPage = {
  name: 'seedshop',
  held: true,
  late: true,
  about: 'a list of goods with lazy pictures throughout, libraries in the head and a font that swaps',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 35 },
    { name: 'static.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 25 },
  ],
  variants: [
    { name: 'hero eager', fixes: ['hero-eager *'] },
    { name: 'hero eager, preloaded', fixes: ['hero-eager *', 'hero-preload *'] },
    { name: 'scripts deferred', fixes: ['script-defer *'] },
    { name: 'unused rules removed', fixes: [`style-remove-unused ${STATIC}/css/all.css`] },
    { name: 'host connected early', fixes: [`preconnect ${STATIC}`] },
  ],
  async files(): Promise<Files> {
    const goods = names('seed', 20);
    const card = (n: string, i: number) =>
      `<figure><img loading="lazy" src="${STATIC}/p/${n}.jpg" alt="" width="480" height="360"><figcaption>${words(5, i + 40)} <b>£${i + 2}</b></figcaption></figure>`;
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Seeds</title>
<link rel="stylesheet" href="${STATIC}/css/all.css"><script src="${STATIC}/js/kit.js"></script><script src="/js/basket.js"></script></head>
<body>${HEAD}<main><h1>Seeds</h1><img loading="lazy" src="${STATIC}/p/drawer.jpg" alt="The seed drawer" width="1000" height="750" style="width:100%;height:auto">
${text(1, 40, 121)}<div class="grid">${goods.map(card).join('\n')}</div></main></body></html>`,
          { waitMs: 240 },
        ),
      ],
      [
        `${STATIC}/css/all.css`,
        css(
          `@font-face{font-family:Shop;src:url(${FONT}) format("woff2");font-display:swap}\n${BOOTSTRAP_CSS()}\n${BASE_CSS}\nbody{font-family:Shop,sans-serif}`,
        ),
      ],
      [
        FONT,
        font('@fontsource-variable/public-sans', 'public-sans-latin-wght-normal.woff2', {
          headers: { 'access-control-allow-origin': '*' },
        }),
      ],
      [`${STATIC}/js/kit.js`, js(JQUERY())],
      [`${WWW}/js/basket.js`, js(busy(25, 'basket'))],
      [`${STATIC}/p/drawer.jpg`, await photo('seed-drawer', 1600, 1200, 70)],
      ...(await Promise.all(goods.map(async (n) => [`${STATIC}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
