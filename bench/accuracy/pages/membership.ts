import { BASE_CSS, css, HEAD, js, MEDIA, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/membership/`;

/** A page that is well made: fixes do nothing to it. */
export const membership: TruthPage = {
  name: 'membership',
  held: false,
  about: 'well made already: fixes do nothing',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 },
    { name: 'media.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 20 },
  ],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero urgent', fixes: ['hero-priority *'] },
    { name: 'host preconnected', fixes: [`preconnect ${MEDIA}/`] },
    { name: 'sizes written', fixes: ['dimensions *'] },
    { name: 'script async', fixes: [`script-async ${WWW}/js/site.js`] },
  ],
  async files(): Promise<Files> {
    const pictures = names('walk', 6);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Membership</title>
<link rel="stylesheet" href="/css/site.css"><script src="/js/site.js" defer></script></head>
<body>${HEAD}<div class="banner"><img src="/p/walk.jpg" alt="A walk" width="1000" height="800"></div>
<main><h1>Membership</h1>${text(4, 60, 81)}<div class="grid">${pictures.map((n) => `<figure><img loading="lazy" src="${MEDIA}/p/${n}.jpg" alt=""></figure>`).join('')}</div></main></body></html>`,
          { waitMs: 60 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/js/site.js`, js('document.documentElement.classList.add("ready");')],
      [`${WWW}/p/walk.jpg`, await photo('membership-walk', 1000, 800, 60)],
      ...(await Promise.all(pictures.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 480, 360, 58)] as const))),
    ]);
  },
};
