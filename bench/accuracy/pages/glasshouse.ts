import {
  BASE_CSS,
  BOOTSTRAP_CSS,
  BOOTSTRAP_JS,
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
  WWW,
} from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/glasshouse/`;

/** A framework's styles and scripts in the head, a hero with loading=lazy, pictures below. */
export const glasshouse: TruthPage = {
  name: 'glasshouse',
  held: false,
  about: 'framework in the head, hero lazy by attribute, fourteen pictures',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 }],
  variants: [
    { name: 'hero eager', fixes: ['hero-eager *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'scripts deferred', fixes: ['script-defer *'] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'three together', fixes: ['hero-eager *', 'script-defer *', 'offscreen-lazy *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('orchid', 14);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Glasshouse</title>
<link rel="stylesheet" href="/css/frame.css"><link rel="stylesheet" href="/css/site.css">
<script src="/js/jquery.js"></script><script src="/js/frame.js"></script><script src="/js/menu.js"></script></head>
<body>${HEAD}<div class="banner"><img loading="lazy" src="/p/dawn.jpg" alt="Glasshouse at dawn" width="1000" height="800"></div>
<main><h1>The glasshouse</h1>${text(3)}${figures(pictures.map((n) => `/p/${n}.jpg`))}${text(4, 80, 2)}</main><footer>Open daily</footer></body></html>`,
          { waitMs: 90 },
        ),
      ],
      [`${WWW}/css/frame.css`, css(BOOTSTRAP_CSS())],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [`${WWW}/js/frame.js`, js(BOOTSTRAP_JS())],
      [`${WWW}/js/menu.js`, js(`jQuery(function(){jQuery('.site-head').addClass('ready')});${busy(18)}`)],
      [`${WWW}/p/dawn.jpg`, await photo('glasshouse-dawn', 1000, 800, 68)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
