import { BASE_CSS, busy, css, HEAD, idleRules, js, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/panorama/`;

/** One photograph of five million points is the hero. */
export const panorama: TruthPage = {
  name: 'panorama',
  held: true,
  late: true,
  about: 'a hero of five million points and seven hundred kilobytes',
  url,
  screen: 'desktop',
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 40 }],
  variants: [
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/view.jpg`] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero urgent', fixes: ['hero-priority *'] },
    { name: 'script deferred', fixes: ['script-defer *'] },
    { name: 'smaller and preloaded', fixes: [`image-resize ${WWW}/p/view.jpg`, 'hero-preload *'] },
  ],
  async files(): Promise<Files> {
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Panorama</title>
<link rel="stylesheet" href="/css/site.css"><script src="/js/view.js"></script></head>
<body>${HEAD}<div class="banner"><img src="/p/view.jpg" alt="The valley" width="1366" height="560"></div><main><h1>Panorama</h1>${text(6, 80, 44)}</main></body></html>`,
          { waitMs: 70 },
        ),
      ],
      [`${WWW}/css/site.css`, css(`${BASE_CSS}\n.banner img{height:560px}\n${idleRules(200, 'pan')}`)],
      [`${WWW}/js/view.js`, js(busy(20, 'view'))],
      [`${WWW}/p/view.jpg`, await photo('panorama-view', 2700, 1850, 87)],
    ]);
  },
};
