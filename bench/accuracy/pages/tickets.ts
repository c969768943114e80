import { BASE_CSS, busy, css, figures, HEAD, js, JQUERY, MEDIA, names, page, photo, text, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/tickets/`;
const COUNT = 'https://count.petalmetrics.example';
const TALK = 'https://talk.helpdesk.example';
const TRIAL = 'https://trial.splitview.example';

/** Scripts of three slow other companies stand before everything. */
export const tickets: TruthPage = {
  name: 'tickets',
  held: false,
  about: 'three slow third parties in the head, five hosts',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h1', waitMs: 40 },
    { name: 'media.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 20 },
    { name: 'count.petalmetrics.example', protocol: 'h2', order: 'fair', waitMs: 160 },
    { name: 'talk.helpdesk.example', protocol: 'h1', waitMs: 420 },
    { name: 'trial.splitview.example', protocol: 'h2', order: 'fair', waitMs: 300 },
  ],
  variants: [
    { name: 'talk script async', fixes: [`script-async ${TALK}/talk.js`] },
    { name: 'all scripts deferred', fixes: ['script-defer *'] },
    { name: 'trial self-hosted', fixes: [`self-host ${TRIAL}/trial.js`] },
    { name: 'media preconnected', fixes: [`preconnect ${MEDIA}/`] },
    { name: 'two async', fixes: [`script-async ${TALK}/talk.js`, `script-async ${COUNT}/count.js`] },
    { name: 'deferred, hero urgent', fixes: ['script-defer *', 'hero-priority *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('leaf', 6);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Tickets</title>
<script src="${TRIAL}/trial.js"></script><script src="${COUNT}/count.js"></script><link rel="stylesheet" href="/css/site.css"><script src="/js/jquery.js"></script><script src="${TALK}/talk.js"></script></head>
<body>${HEAD}<main><h1>Tickets</h1></main><div class="banner"><img src="${MEDIA}/p/gate.jpg" alt="The gate" width="1000" height="800"></div>
<main>${text(3, 60, 21)}${figures(pictures.map((n) => `${MEDIA}/p/${n}.jpg`))}</main></body></html>`,
          { waitMs: 160 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [`${TRIAL}/trial.js`, js(`${busy(12, 'trial')}/*${words(2600, 31)}*/`)],
      [`${COUNT}/count.js`, js(`${busy(20, 'count')}/*${words(4200, 32)}*/`)],
      [`${TALK}/talk.js`, js(`${busy(30, 'talk')}/*${words(7000, 33)}*/`)],
      [`${MEDIA}/p/gate.jpg`, await photo('visit-gate', 1000, 800, 66)],
      ...(await Promise.all(pictures.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
