import {
  BASE_CSS,
  busy,
  css,
  figures,
  HEAD,
  idleRules,
  js,
  JQUERY,
  MEDIA,
  names,
  page,
  photo,
  text,
  WWW,
} from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/terrace/`;
const CODE = 'https://code.fernhollow.example';
const COUNT = 'https://count.petalmetrics.example';

/** Four hosts, all of which send by the urgency that the browser states. */
export const terrace: TruthPage = {
  name: 'terrace',
  held: false,
  late: true,
  about: 'four hosts that send by urgency',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 40 },
    { name: 'code.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 },
    { name: 'media.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 },
    { name: 'count.petalmetrics.example', protocol: 'h2', order: 'urgency', waitMs: 90 },
  ],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero urgent', fixes: ['hero-priority *'] },
    { name: 'scripts deferred', fixes: ['script-defer *'] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'preloaded and deferred', fixes: ['hero-preload *', 'script-defer *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('terrace', 14);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Terrace</title>
<link rel="stylesheet" href="${CODE}/site.css"><script src="${CODE}/jquery.js"></script><script src="${COUNT}/count.js" async></script></head>
<body>${HEAD}<div class="banner"><img src="${MEDIA}/p/terrace.jpg" alt="The terrace" width="1000" height="800"></div>
<main><h1>Terrace</h1>${figures(pictures.map((n) => `${MEDIA}/p/${n}.jpg`))}${text(6, 60, 31)}</main><script src="${CODE}/menu.js"></script></body></html>`,
          { waitMs: 100 },
        ),
      ],
      [`${CODE}/site.css`, css(`${BASE_CSS}\n${idleRules(420, 'ter')}`)],
      [`${CODE}/jquery.js`, js(JQUERY())],
      [`${CODE}/menu.js`, js(busy(25, 'menu'))],
      [`${COUNT}/count.js`, js(busy(18, 'count'))],
      [`${MEDIA}/p/terrace.jpg`, await photo('terrace-hero', 1000, 800, 72)],
      ...(await Promise.all(pictures.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
