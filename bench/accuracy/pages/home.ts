import { BASE_CSS, css, figures, font, HEAD, idleRules, js, JQUERY, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/`;

/** The hero is a background that a stylesheet names, which imports another one with the font. */
export const home: TruthPage = {
  name: 'home',
  held: false,
  about: 'hero as a background, a chain of imports, a web font',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 35 }],
  variants: [
    { name: 'hero eager', fixes: ['hero-eager *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'imports linked', fixes: ['import-flatten *'] },
    { name: 'critical rules inlined', fixes: [`style-inline-critical ${WWW}/css/site.css`] },
    { name: 'preloaded, imports linked', fixes: ['hero-preload *', 'import-flatten *'] },
    { name: 'font preloaded', fixes: [`font-preload ${WWW}/fonts/serif.woff2`] },
  ],
  async files(): Promise<Files> {
    const pictures = names('menu', 8);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Fernhollow</title>
<link rel="stylesheet" href="/css/site.css"><script src="/js/jquery.js" defer></script></head>
<body>${HEAD}<div class="cover"><h1>Welcome</h1></div>
<main><h2>This week</h2>${text(3, 60, 5)}${figures(pictures.map((n) => `/p/${n}.jpg`))}${text(3, 60, 6)}</main></body></html>`,
          { waitMs: 120 },
        ),
      ],
      [
        `${WWW}/css/site.css`,
        css(
          `@import "/css/type.css";\n${BASE_CSS}\n.cover{height:520px;background:#cfdac8 url("/p/border.jpg") center/cover}.cover h1{margin:0;padding:24px;color:#fff}\n${idleRules(500, 'home')}`,
        ),
      ],
      [
        `${WWW}/css/type.css`,
        css(
          `@import "/css/colour.css";\n@font-face{font-family:"Garden Serif";src:url("/fonts/serif.woff2") format("woff2");font-weight:200 900;font-display:swap}\nbody,h1,h2{font-family:"Garden Serif",Georgia,serif}`,
        ),
      ],
      [`${WWW}/css/colour.css`, css(`:root{--moss:#33453c}h2{color:var(--moss)}\n${idleRules(80, 'tint')}`)],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [
        `${WWW}/fonts/serif.woff2`,
        font('@fontsource-variable/source-serif-4', 'source-serif-4-latin-wght-normal.woff2'),
      ],
      [`${WWW}/p/border.jpg`, await photo('home-border', 1100, 1300, 62)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
