import { BASE_CSS, busy, css, figures, HEAD, idleRules, js, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/welcome/`;
const TAGS = 'https://tags.mossline.example';

/** The first styles stand in the page, the rest comes without blocking; the heading fades in, the hero slides in; tags of others ask for a choice. */
export const welcome: TruthPage = {
  name: 'welcome',
  held: true,
  late: true,
  about:
    'styles in the page, a heading that fades and a hero that slides in, tags that load tags and ask for consent after a second',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 },
    { name: 'tags.mossline.example', protocol: 'h2', order: 'fair', waitMs: 60 },
  ],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/gatehouse.jpg`] },
    { name: 'server faster', fixes: [`server-faster ${url} wait=60`] },
    { name: 'tags connected early', fixes: [`preconnect ${TAGS}`] },
    { name: 'smaller, preloaded', fixes: [`image-resize ${WWW}/p/gatehouse.jpg`, 'hero-preload *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('welcome', 8);
    const rise = `.rise{opacity:0;animation:rise .6s .3s forwards}@keyframes rise{from{opacity:0;transform:translateY(14px)}to{opacity:1;transform:none}}.slide{animation:slide .5s}@keyframes slide{from{transform:translateX(-40px)}to{transform:none}}`;
    const add = (file: string) =>
      `var s=document.createElement('script');s.async=true;s.src='${TAGS}/${file}';document.head.appendChild(s);`;
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Welcome</title>
<style>${BASE_CSS}${rise}</style><link rel="stylesheet" href="/css/welcome.css" media="print" onload="this.media='all'">
<script async src="${TAGS}/loader.js"></script><script defer src="/js/welcome.js"></script></head>
<body>${HEAD}<main><div class="rise"><h1>Welcome</h1></div><img class="slide" src="/p/gatehouse.jpg" alt="The gatehouse" width="1000" height="800" style="width:100%;height:auto">
${text(4, 60, 81)}${figures(pictures.map((n) => `/p/${n}.jpg`))}</main></body></html>`,
          { waitMs: 380 },
        ),
      ],
      [`${WWW}/css/welcome.css`, css(idleRules(500, 'wel'))],
      [`${WWW}/js/welcome.js`, js(`${busy(30, 'menu')}document.body.classList.add('ready');`)],
      [`${TAGS}/loader.js`, js(`${busy(12, 'tags')}(function(){${add('stats.js')}${add('consent.js')}})();`)],
      [`${TAGS}/stats.js`, js(busy(70, 'stats'))],
      [
        `${TAGS}/consent.js`,
        js(
          `${busy(25, 'consent')}setTimeout(function(){var d=document.createElement('div');d.style.cssText='position:fixed;bottom:0;left:0;right:0;background:#fff;padding:14px;border-top:2px solid #33453c';d.innerHTML='<p>We count visits. May we?</p><button>Yes</button> <button>No</button>';document.body.appendChild(d)},1200);`,
        ),
      ],
      [`${WWW}/p/gatehouse.jpg`, await photo('welcome-gatehouse', 1500, 1200, 72)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
