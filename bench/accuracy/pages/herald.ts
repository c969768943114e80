import { BASE_CSS, busy, css, figures, font, HEAD, idleRules, js, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/herald/`;
const FONT = `${WWW}/f/herald.woff2`;
/** Early Hints serve nothing that may not be kept. */
const KEPT = { headers: { 'cache-control': 'max-age=3600' } };

/** A slow page whose server names its sheet, its font and its hero in Early Hints, long before the page is there. */
export const herald: TruthPage = {
  name: 'herald',
  held: true,
  late: true,
  about: 'a slow page whose server sends Early Hints of its sheet, font and hero',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 }],
  variants: [
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/gazette.jpg`] },
    { name: 'server faster', fixes: [`server-faster ${url} wait=60`] },
    { name: 'script deferred', fixes: ['script-defer *'] },
    { name: 'unused rules removed', fixes: [`style-remove-unused ${WWW}/css/herald.css`] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('notice', 14);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Herald</title>
<link rel="stylesheet" href="/css/herald.css"><script src="/js/herald.js"></script></head>
<body>${HEAD}<main><h1>The garden herald</h1><img src="/p/gazette.jpg" alt="The front page" width="1200" height="900" style="width:100%;height:auto">
${text(4, 60, 151)}${figures(pictures.map((n) => `/p/${n}.jpg`))}</main></body></html>`,
          {
            waitMs: 480,
            hints: {
              ms: 25,
              links: [
                '</css/herald.css>; rel=preload; as=style',
                '</f/herald.woff2>; rel=preload; as=font; type="font/woff2"; crossorigin',
                '</p/gazette.jpg>; rel=preload; as=image',
              ],
            },
          },
        ),
      ],
      [
        `${WWW}/css/herald.css`,
        css(
          `@font-face{font-family:Herald;src:url(${FONT}) format("woff2");font-display:block}\n${BASE_CSS}\nbody{font-family:Herald,serif}\n${idleRules(900, 'her')}`,
          KEPT,
        ),
      ],
      [`${WWW}/js/herald.js`, js(busy(35, 'herald'))],
      [FONT, font('@fontsource-variable/source-serif-4', 'source-serif-4-latin-wght-normal.woff2', KEPT)],
      [`${WWW}/p/gazette.jpg`, await photo('herald-gazette', 2000, 1500, 74).then((p) => ({ ...p, ...KEPT }))],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
