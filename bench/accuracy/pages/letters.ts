import { BASE_CSS, css, font, HEAD, idleRules, page, photo, text, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/letters/`;
const TYPE = 'https://type.letterpress.example';
const FACE = `${TYPE}/f/serif.woff2`;

/** The hero is text whose font another host's sheet names, which the own sheet imports; the text shows in a stand-in first. */
export const letters: TruthPage = {
  name: 'letters',
  held: false,
  late: true,
  about: 'text hero in a swapped font behind an import of another host',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 35 },
    { name: 'type.letterpress.example', protocol: 'h2', order: 'fair', waitMs: 45 },
  ],
  variants: [
    { name: 'font preloaded', fixes: [`font-preload ${FACE}`] },
    { name: 'font host preconnected', fixes: [`preconnect ${TYPE}/`] },
    { name: 'import linked', fixes: ['import-flatten *'] },
    { name: 'sheet later', fixes: [`style-nonblocking ${WWW}/css/letters.css`] },
    { name: 'linked and preloaded', fixes: ['import-flatten *', `font-preload ${FACE}`] },
  ],
  async files(): Promise<Files> {
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Letters</title>
<link rel="stylesheet" href="/css/letters.css"></head>
<body>${HEAD}<main><p class="lead">${words(46, 19)}</p>${text(5, 40, 18)}<p><img src="/p/desk.jpg" alt="A desk" width="300" height="200"></p></main></body></html>`,
          { waitMs: 80 },
        ),
      ],
      [
        `${WWW}/css/letters.css`,
        css(`@import url("${TYPE}/letters.css");
${BASE_CSS}
.lead{font-size:2.3rem;line-height:1.25;font-family:"Letter Serif",serif}
${idleRules(160, 'let')}`),
      ],
      [
        `${TYPE}/letters.css`,
        css(
          `@font-face{font-family:"Letter Serif";font-display:swap;src:url("${FACE}") format("woff2");font-weight:200 900}`,
        ),
      ],
      [FACE, font('@fontsource-variable/source-serif-4', 'source-serif-4-latin-wght-normal.woff2')],
      [`${WWW}/p/desk.jpg`, await photo('letters-desk', 600, 400, 60)],
    ]);
  },
};
