import { BASE_CSS, busy, css, figures, HEAD, js, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/parade/`;

/** HTTP/1.1, one host: a carousel whose other slides stand beside the first, and many pictures below. */
export const parade: TruthPage = {
  name: 'parade',
  held: true,
  late: true,
  about: 'HTTP/1.1, slides beside the first, many pictures',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h1', waitMs: 45 }],
  variants: [
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'hero urgent', fixes: ['hero-priority *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'script deferred', fixes: ['script-defer *'] },
    { name: 'lazy and urgent', fixes: ['offscreen-lazy *', 'hero-priority *'] },
  ],
  async files(): Promise<Files> {
    const slides = names('float', 5);
    const pictures = names('crowd', 18);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Parade</title>
<link rel="stylesheet" href="/css/site.css"><script src="/js/slides.js"></script></head>
<body>${HEAD}<div class="rail">${slides.map((n) => `<img src="/p/${n}.jpg" alt="" width="900" height="700">`).join('')}</div>
<main><h1>Parade</h1>${text(4, 50, 61)}${figures(pictures.map((n) => `/p/${n}.jpg`))}${text(4, 50, 62)}</main></body></html>`,
          { waitMs: 90 },
        ),
      ],
      [
        `${WWW}/css/site.css`,
        css(
          `${BASE_CSS}\n.rail{display:flex;overflow:hidden}.rail img{flex:0 0 100%;width:100%;height:auto;aspect-ratio:9/7}`,
        ),
      ],
      [`${WWW}/js/slides.js`, js(busy(15, 'slides'))],
      ...(await Promise.all(slides.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 900, 700, 68)] as const))),
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
