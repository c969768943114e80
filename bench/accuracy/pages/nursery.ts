import {
  BASE_CSS,
  BOOTSTRAP_CSS,
  busy,
  css,
  figures,
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

const url = `${WWW}/nursery/`;

/** On a wide screen: inline scripts behind a large sheet, the hero far down the markup, eager pictures around it. */
export const nursery: TruthPage = {
  name: 'nursery',
  held: false,
  about: 'wide screen, pictures before the hero, inline script behind a large sheet',
  url,
  screen: 'desktop',
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 35 }],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero urgent', fixes: ['hero-priority *'] },
    { name: 'hero re-encoded', fixes: [`image-resize ${WWW}/p/greenhouse.jpg`] },
    { name: 'sheet inlined', fixes: [`style-inline-critical ${WWW}/css/frame.css`] },
    {
      name: 'urgent, re-encoded, deferred',
      fixes: ['hero-priority *', `image-resize ${WWW}/p/greenhouse.jpg`, 'script-defer *'],
    },
  ],
  async files(): Promise<Files> {
    const pictures = names('tray', 12);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Nursery</title>
<link rel="stylesheet" href="/css/frame.css"><link rel="stylesheet" href="/css/site.css"><script>${busy(3, 'early')}</script><script src="/js/jquery.js"></script></head>
<body>${HEAD}<main><h1>Nursery</h1>${figures(
            pictures.slice(0, 8).map((n) => `/p/${n}.jpg`),
            'width="300" height="120"',
          )}
<img class="wide" src="/p/greenhouse.jpg" alt="The greenhouse" width="1800" height="900">${text(6, 80, 151)}${figures(pictures.slice(8).map((n) => `/p/${n}.jpg`))}</main><script src="/js/stock.js"></script></body></html>`,
          { waitMs: 85 },
        ),
      ],
      [`${WWW}/css/frame.css`, css(BOOTSTRAP_CSS())],
      [
        `${WWW}/css/site.css`,
        css(
          `${BASE_CSS}\n.wide{display:block;width:1000px;height:420px;object-fit:cover}main .grid img{aspect-ratio:5/2}`,
        ),
      ],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [`${WWW}/js/stock.js`, js(busy(35, 'stock') + `/*${words(2500, 152)}*/`)],
      [`${WWW}/p/greenhouse.jpg`, await photo('nursery-greenhouse', 1800, 900, 64)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
