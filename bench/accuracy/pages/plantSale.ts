import { BASE_CSS, css, figures, HEAD, idleRules, js, JQUERY, MEDIA, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/plant-sale/`;
const LOADER = `(function ($) {
  $(function () {
    $('img.later').each(function () { var full = this.getAttribute('data-full'); if (full && this.getBoundingClientRect().top < innerHeight + 400) { this.src = full; this.removeAttribute('data-full'); } });
  });
})(jQuery);`;

/** The hero is set by a script-driven loader when the page has been parsed; pictures come from a second host. */
export const plantSale: TruthPage = {
  name: 'plant-sale',
  held: true,
  about: 'hero kept back by a loader, pictures from an HTTP/1.1 host',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 40 },
    { name: 'media.fernhollow.example', protocol: 'h1', waitMs: 25 },
  ],
  variants: [
    { name: 'hero eager', fixes: ['hero-eager *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero re-encoded', fixes: [`image-resize ${MEDIA}/p/tables.jpg`] },
    { name: 'host preconnected', fixes: ['preconnect https://media.fernhollow.example/'] },
    { name: 'eager and re-encoded', fixes: ['hero-eager *', `image-resize ${MEDIA}/p/tables.jpg`] },
  ],
  async files(): Promise<Files> {
    const small = names('seedling', 12);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Plant sale</title>
<link rel="stylesheet" href="/css/site.css"></head>
<body>${HEAD}<div class="banner"><img class="later" data-full="${MEDIA}/p/tables.jpg" alt="Tables of plants" width="1200" height="960"></div>
<main><h1>Plant sale</h1>${text(2, 50, 3)}${figures(small.slice(0, 6).map((n) => `${MEDIA}/p/${n}.jpg`))}
<div class="grid">${small
            .slice(6)
            .map(
              (n) =>
                `<figure><img class="later" data-full="${MEDIA}/p/${n}.jpg" alt="" width="480" height="360"></figure>`,
            )
            .join('')}</div>${text(5, 70, 4)}</main>
<script src="/js/jquery.js"></script><script src="/js/later.js"></script></body></html>`,
          { waitMs: 140 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS + idleRules(260, 'sale'))],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [`${WWW}/js/later.js`, js(LOADER)],
      [`${MEDIA}/p/tables.jpg`, await photo('plant-sale-tables', 1500, 1200, 70)],
      ...(await Promise.all(small.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 480, 360, 58)] as const))),
    ]);
  },
};
