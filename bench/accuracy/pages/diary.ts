import {
  BASE_CSS,
  BOOTSTRAP_JS,
  busy,
  css,
  HEAD,
  idleRules,
  js,
  JQUERY,
  names,
  page,
  photo,
  words,
  WWW,
} from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/diary/`;

/** A very long document, sent uncompressed, with scripts between its parts; the hero is text. */
export const diary: TruthPage = {
  name: 'diary',
  held: true,
  about: 'a document of 330 kB uncompressed with inline scripts, text hero',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h1', waitMs: 30 }],
  variants: [
    { name: 'document compressed', fixes: [`text-compress ${url}`] },
    { name: 'scripts deferred', fixes: ['script-defer *'] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'sheet later', fixes: [`style-nonblocking ${WWW}/css/entries.css`] },
    { name: 'compressed, deferred, lazy', fixes: [`text-compress ${url}`, 'script-defer *', 'offscreen-lazy *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('diary', 10);
    const entries = Array.from(
      { length: 260 },
      (_, i) =>
        `<article><h2>${words(5, i + 900)}</h2><p>${words(180, i + 1200)}</p>${i % 26 === 5 ? `<img src="/p/${pictures[Math.floor(i / 26)]}.jpg" alt="" width="480" height="360">` : ''}${i % 40 === 20 ? `<script>window.entry=${i};${busy(2, 'entry' + i)}</script>` : ''}</article>`,
    ).join('\n');
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Diary</title>
<link rel="stylesheet" href="/css/site.css"><link rel="stylesheet" href="/css/entries.css"><script src="/js/jquery.js"></script><script src="/js/frame.js"></script></head>
<body>${HEAD}<main><h1>Diary of the garden</h1>${entries}</main></body></html>`,
          { waitMs: 130, gzip: false },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/css/entries.css`, css(`article{border-top:1px solid #ccc}\n${idleRules(220, 'entry')}`)],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [`${WWW}/js/frame.js`, js(BOOTSTRAP_JS())],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
