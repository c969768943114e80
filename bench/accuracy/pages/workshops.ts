import { BASE_CSS, busy, css, figures, HEAD, js, MEDIA, names, page, PAPER, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/workshops/`;

/** Module and async scripts; the hero gets its picture when everything has loaded. */
export const workshops: TruthPage = {
  name: 'workshops',
  held: false,
  about: 'modules and async scripts, hero set at the load event',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 40 },
    { name: 'media.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 25 },
  ],
  variants: [
    { name: 'hero eager', fixes: ['hero-eager *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'host preconnected', fixes: [`preconnect ${MEDIA}/`] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'eager and lazy', fixes: ['hero-eager *', 'offscreen-lazy *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('bench', 10);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Workshops</title>
<link rel="stylesheet" href="/css/site.css"><script type="module" src="/js/main.js"></script><script async src="/js/table.js"></script></head>
<body>${HEAD}<div class="banner"><img id="hero" data-src="/p/workbench.jpg" alt="The workbench" width="1000" height="800"></div>
<main><h1>Workshops</h1>${text(2, 60, 111)}${figures(pictures.map((n) => `${MEDIA}/p/${n}.jpg`))}</main>
<script>addEventListener('load',function(){var i=document.getElementById('hero');if(!i.dataset.src)return;i.src=i.dataset.src})</script></body></html>`,
          { waitMs: 70 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/js/main.js`, js(`import { start } from './part.js';\nstart();`)],
      [
        `${WWW}/js/part.js`,
        js(`export function start() { document.documentElement.classList.add('ready'); ${busy(14)} }`),
      ],
      [`${WWW}/js/table.js`, js(PAPER() + busy(10, 'table'))],
      [`${WWW}/p/workbench.jpg`, await photo('workbench', 1000, 800, 64)],
      ...(await Promise.all(pictures.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
