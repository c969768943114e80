import {
  BASE_CSS,
  busy,
  css,
  figures,
  bareFont,
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

const url = `${WWW}/shop/`;

/** A slow server, fonts in the older format, nothing kept for the next visit. */
export const shop: TruthPage = {
  name: 'shop',
  held: false,
  about: 'slow server, old fonts, no caching; second visits as well',
  url,
  repeat: true,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 50 }],
  variants: [
    { name: 'server faster', fixes: [`server-faster ${url} wait=150`] },
    { name: 'font converted', fixes: [`font-convert ${WWW}/fonts/mono.ttf`] },
    { name: 'font preloaded', fixes: [`font-preload ${WWW}/fonts/mono.ttf`] },
    { name: 'kept for a year', fixes: [`cache-policy ${WWW}/*`] },
    { name: 'faster and preloaded', fixes: [`server-faster ${url} wait=150`, `font-preload ${WWW}/fonts/mono.ttf`] },
  ],
  async files(): Promise<Files> {
    const pictures = names('pot', 8);
    const none = { headers: { 'cache-control': 'no-store' } };
    const asked = (tag: string) => ({ headers: { 'cache-control': 'no-cache', etag: `"${tag}"` } });
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Shop</title>
<link rel="stylesheet" href="/css/site.css"><link rel="stylesheet" href="/css/shop.css"><script src="/js/jquery.js"></script></head>
<body>${HEAD}<main><h1 class="lead">${words(30, 91)}</h1>${figures(pictures.map((n) => `/p/${n}.jpg`))}${text(3, 60, 92)}</main><script src="/js/basket.js"></script></body></html>`,
          { waitMs: 900 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS, asked('s1'))],
      [
        `${WWW}/css/shop.css`,
        css(
          `@font-face{font-family:"Shop Mono";src:url("/fonts/mono.ttf") format("truetype");font-display:block}.lead{font:600 1.9rem/1.35 "Shop Mono",monospace}`,
          asked('s2'),
        ),
      ],
      [`${WWW}/js/jquery.js`, js(JQUERY(), asked('j1'))],
      [`${WWW}/js/basket.js`, js(busy(16), none)],
      [`${WWW}/fonts/mono.ttf`, bareFont('@fontsource/ibm-plex-mono', 'ibm-plex-mono-latin-400-normal.woff', none)],
      [`${WWW}/fonts/mono.woff2`, font('@fontsource/ibm-plex-mono', 'ibm-plex-mono-latin-400-normal.woff2', none)],
      ...(await Promise.all(
        pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, { ...(await photo(n, 480, 360, 60)), ...asked(n) }] as const),
      )),
    ]);
  },
};
