import { BASE_CSS, busy, css, D3, HEAD, js, MEDIA, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/walks/`;

/** Slides that nobody sees stand before the hero, which is offered in sizes; heavy scripts end the body. */
export const walks: TruthPage = {
  name: 'walks',
  held: true,
  about: 'hidden slides, hero with srcset, heavy scripts at the end',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 35 },
    { name: 'media.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 25 },
  ],
  variants: [
    { name: 'hidden pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'hero urgent', fixes: ['hero-priority *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'scripts async', fixes: [`script-async ${WWW}/js/d3.js`, `script-async ${WWW}/js/route.js`] },
    { name: 'lazy and urgent', fixes: ['offscreen-lazy *', 'hero-priority *'] },
  ],
  async files(): Promise<Files> {
    const slides = names('slide', 6);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Walks</title>
<link rel="stylesheet" href="/css/site.css"></head>
<body>${HEAD}<div class="slides">${slides.map((n) => `<img src="${MEDIA}/p/${n}.jpg" alt="" width="800" height="600">`).join('')}</div>
<div class="banner"><picture><source media="(min-width: 900px)" srcset="${MEDIA}/p/path-1600.jpg"><img srcset="${MEDIA}/p/path-500.jpg 500w, ${MEDIA}/p/path-1000.jpg 1000w" sizes="100vw" src="${MEDIA}/p/path-500.jpg" alt="The path" width="1000" height="800"></picture></div>
<main><h1>Walks</h1>${text(5, 60, 101)}</main><script src="/js/d3.js"></script><script src="/js/route.js"></script></body></html>`,
          { waitMs: 90 },
        ),
      ],
      [`${WWW}/css/site.css`, css(`${BASE_CSS}\n.slides{display:none}`)],
      [`${WWW}/js/d3.js`, js(D3())],
      [`${WWW}/js/route.js`, js(busy(60))],
      [`${MEDIA}/p/path-500.jpg`, await photo('walk-path', 500, 400, 64)],
      [`${MEDIA}/p/path-1000.jpg`, await photo('walk-path', 1000, 800, 64)],
      [`${MEDIA}/p/path-1600.jpg`, await photo('walk-path', 1600, 1280, 64)],
      ...(await Promise.all(slides.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 800, 600, 58)] as const))),
    ]);
  },
};
