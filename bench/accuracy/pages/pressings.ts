import { BASE_CSS, busy, css, HEAD, idleRules, js, JQUERY, names, page, photo, text, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/pressings/`;
const KIT = 'https://kit.fernhollow.example';

/** Pictures stand in the page as a blur; a script puts the real ones in when they come near the screen. */
export const pressings: TruthPage = {
  name: 'pressings',
  held: true,
  late: true,
  about: 'blurred stand-ins in the page, real pictures put in by a script when they are near the screen',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 30 },
    { name: 'kit.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 40 },
  ],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/frond.jpg`] },
    { name: 'library deferred', fixes: [`script-defer ${KIT}/kit.js`, `script-defer ${WWW}/js/nearby.js`] },
    { name: 'styles not blocking', fixes: [`style-inline-critical ${WWW}/css/pressings.css`] },
    { name: 'kit connected early', fixes: [`preconnect ${KIT}`] },
  ],
  async files(): Promise<Files> {
    const pictures = names('pressing', 12);
    const blur = async (name: string, width: number, height: number) =>
      `data:image/jpeg;base64,${(await photo(name, width, height, 30)).body.toString('base64')}`;
    const standIn = async (name: string, width: number, height: number, style = '') =>
      `<img class="nearby" src="${await blur(`${name}-blur`, width / 20, height / 20)}" data-src="/p/${name}.jpg" alt="" width="${width}" height="${height}"${style}>`;
    const grid = await Promise.all(pictures.map((n) => standIn(n, 480, 360)));
    const nearby = `$(function(){var seen=new IntersectionObserver(function(all){all.forEach(function(e){if(!e.isIntersecting)return;seen.unobserve(e.target);var real=new Image();real.onload=function(){e.target.src=real.src;e.target.classList.add('sharp')};real.src=e.target.getAttribute('data-src')})},{rootMargin:'250px'});$('img.nearby').each(function(){seen.observe(this)})});`;
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Pressings</title>
<link rel="stylesheet" href="/css/pressings.css"></head>
<body>${HEAD}<main><h1>Pressings</h1>${await standIn('frond', 1000, 800, ' style="width:100%;height:auto"')}
${text(4, 60, 91)}<div class="grid">${grid.map((g, i) => `<figure>${g}<figcaption>${words(4, i + 1)}</figcaption></figure>`).join('\n')}</div></main>
<script src="${KIT}/kit.js"></script><script src="/js/nearby.js"></script></body></html>`,
          { waitMs: 150 },
        ),
      ],
      [`${WWW}/css/pressings.css`, css(`${BASE_CSS}\n${idleRules(400, 'prs')}`)],
      [`${KIT}/kit.js`, js(JQUERY())],
      [`${WWW}/js/nearby.js`, js(`${nearby}${busy(20, 'nearby')}`)],
      [`${WWW}/p/frond.jpg`, await photo('frond', 1400, 1120, 72)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
