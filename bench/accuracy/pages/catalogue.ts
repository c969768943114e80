import {
  BASE_CSS,
  BOOTSTRAP_CSS,
  css,
  HEAD,
  idleRules,
  js,
  JQUERY_SOURCE,
  MANTINE_CSS,
  names,
  page,
  photo,
  text,
  figures,
  WWW,
} from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/catalogue/`;

/** Stylesheets of two frameworks, of which the page uses little. */
export const catalogue: TruthPage = {
  name: 'catalogue',
  held: true,
  about: 'much CSS of which little is used, scripts as people write them',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 45 }],
  variants: [
    { name: 'one sheet later', fixes: [`style-nonblocking ${WWW}/css/kit.css`] },
    { name: 'unused rules removed', fixes: [`style-remove-unused ${WWW}/css/frame.css`] },
    { name: 'critical rules inlined', fixes: ['style-inline-critical *'] },
    { name: 'script minified', fixes: [`minify ${WWW}/js/jquery.js`] },
    { name: 'sheet compressed', fixes: [`text-compress ${WWW}/css/kit.css`] },
    {
      name: 'three together',
      fixes: [
        `text-compress ${WWW}/css/kit.css`,
        `style-remove-unused ${WWW}/css/frame.css`,
        `script-defer ${WWW}/js/jquery.js`,
      ],
    },
  ],
  async files(): Promise<Files> {
    const pictures = names('seedling', 6);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Catalogue</title>
<link rel="stylesheet" href="/css/frame.css"><link rel="stylesheet" href="/css/kit.css"><link rel="stylesheet" href="/css/site.css"><link rel="stylesheet" media="print" href="/css/print.css">
<script src="/js/jquery.js"></script></head>
<body>${HEAD}<div class="banner"><img src="/p/shelves.jpg" alt="Shelves" width="1000" height="800"></div>
<main><h1>Catalogue</h1>${text(4, 60, 51)}${figures(pictures.map((n) => `/p/${n}.jpg`))}</main></body></html>`,
          { waitMs: 70 },
        ),
      ],
      [`${WWW}/css/frame.css`, css(BOOTSTRAP_CSS())],
      [`${WWW}/css/kit.css`, css(MANTINE_CSS(), { gzip: false })],
      [`${WWW}/css/site.css`, css(BASE_CSS + idleRules(60, 'cat'))],
      [`${WWW}/css/print.css`, css(idleRules(200, 'print'))],
      [`${WWW}/js/jquery.js`, js(JQUERY_SOURCE())],
      [`${WWW}/p/shelves.jpg`, await photo('catalogue-shelves', 1000, 800, 64)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 58)] as const))),
    ]);
  },
};
