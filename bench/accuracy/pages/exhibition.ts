import { BASE_CSS, busy, css, figures, HEAD, idleRules, js, names, page, PAPER, photo, text, WWW } from '../parts';
import type { FileSpec, Files, TruthPage } from '../site';

const url = `${WWW}/exhibition/`;
const entrance = 'https://fernhollow.example/exhibition/';
const hop: FileSpec = { type: 'text/html', status: 301, body: Buffer.alloc(0), headers: { location: url } };

/** Entered by the bare name; the hero is a background of a stylesheet that another one imports, a chain of scripts makes the menu. */
export const exhibition: TruthPage = {
  name: 'exhibition',
  held: true,
  late: true,
  about: 'entered by another name; a background hero in an imported stylesheet, scripts that bring scripts',
  url: entrance,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 40 },
    { name: 'fernhollow.example', protocol: 'h1', waitMs: 30 },
  ],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'import flattened', fixes: [`import-flatten ${WWW}/css/stage.css`] },
    { name: 'script deferred', fixes: [`script-defer ${WWW}/js/menu.js`] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'flattened, preloaded', fixes: [`import-flatten ${WWW}/css/stage.css`, 'hero-preload *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('exhibit', 10);
    return new Map([
      [entrance, hop],
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Exhibition</title>
<link rel="stylesheet" href="/css/main.css"><script src="/js/menu.js"></script></head>
<body>${HEAD}<div class="stage"></div><main><h1>Exhibition</h1>${text(4, 60, 141)}${figures(pictures.map((n) => `/p/${n}.jpg`))}</main></body></html>`,
          { waitMs: 180 },
        ),
      ],
      [`${WWW}/css/main.css`, css(`@import url(/css/stage.css);\n${BASE_CSS}\n${idleRules(300, 'exh')}`)],
      [
        `${WWW}/css/stage.css`,
        css(`.stage{height:520px;background:#ccc url(/p/stage.jpg) center/cover}\n${idleRules(120, 'stg')}`),
      ],
      [
        `${WWW}/js/menu.js`,
        js(
          `${busy(15, 'menu')}var s=document.createElement('script');s.src='/js/table.js';document.head.appendChild(s);`,
        ),
      ],
      [`${WWW}/js/table.js`, js(PAPER() + busy(20, 'table'))],
      [`${WWW}/p/stage.jpg`, await photo('exhibition-stage', 1400, 1000, 72)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
