import { BASE_CSS, busy, css, figures, HEAD, idleRules, js, names, page, photo, text, words, WWW } from '../parts';
import type { FileSpec, Files, TruthPage } from '../site';

const url = `${WWW}/lanes/`;
const MAPS = 'maps.lanefinder.example';
const PLAIN = `http://${MAPS}`;

/** Plain http inside a secure page: pictures that the browser upgrades, a script and a style that it blocks. */
export const lanes: TruthPage = {
  name: 'lanes',
  held: false,
  about: 'mixed content: upgraded pictures, a blocked script and style',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h1', waitMs: 30 },
    { name: MAPS, protocol: 'h2', order: 'fair', waitMs: 90 },
  ],
  variants: [
    { name: 'script by https', fixes: [`http-upgrade ${PLAIN}/map.js`] },
    { name: 'style by https', fixes: [`http-upgrade ${PLAIN}/map.css`] },
    { name: 'hero by https', fixes: [`http-upgrade ${PLAIN}/p/lane.jpg`] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'all by https, hero urgent', fixes: ['http-upgrade *', 'hero-priority *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('lane', 8);
    const both = (path: string, file: FileSpec): [string, FileSpec][] => [
      [`http://${MAPS}${path}`, file],
      [`https://${MAPS}${path}`, file],
    ];
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Lanes</title>
<link rel="stylesheet" href="/css/site.css"><link rel="stylesheet" href="${PLAIN}/map.css"><script src="${PLAIN}/map.js"></script></head>
<body>${HEAD}<main><h1>How to find us</h1>${text(1, 30, 71)}</main><div class="banner"><img src="${PLAIN}/p/lane.jpg" alt="The lane" width="1000" height="800"></div>
<main>${figures(pictures.map((n) => `${PLAIN}/p/${n}.jpg`))}${text(4, 60, 72)}</main><script src="/js/site.js"></script></body></html>`,
          { waitMs: 100 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS + idleRules(150, 'lane'))],
      [`${WWW}/js/site.js`, js(busy(14) + `/*${words(1200, 73)}*/`)],
      ...both('/map.css', css(idleRules(160, 'map'))),
      ...both('/map.js', js(`${busy(22, 'map')}/*${words(5000, 74)}*/`)),
      ...both('/p/lane.jpg', await photo('lane-wide', 1000, 800, 64)),
      ...(await Promise.all(pictures.map(async (n) => both(`/p/${n}.jpg`, await photo(n, 480, 360, 58))))).flat(),
    ]);
  },
};
