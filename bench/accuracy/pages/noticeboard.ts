import {
  BASE_CSS,
  BOOTSTRAP_CSS,
  busy,
  css,
  figures,
  HEAD,
  js,
  JQUERY,
  names,
  page,
  photo,
  text,
  words,
  WWW,
} from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/noticeboard/`;
const DATA = 'https://data.fernhollow.example';

/** A board that a script fills from another host; headers of the page preload its background hero and connect to that host. */
export const noticeboard: TruthPage = {
  name: 'noticeboard',
  held: true,
  late: true,
  about: 'Link headers preload a background hero and connect to a host of data',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h1', waitMs: 30 },
    { name: 'data.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 90 },
  ],
  variants: [
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/board.jpg`] },
    { name: 'scripts deferred', fixes: ['script-defer *'] },
    { name: 'styles later', fixes: ['style-nonblocking *'] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'server faster', fixes: [`server-faster ${url} wait=40`] },
  ],
  async files(): Promise<Files> {
    const pictures = names('pin', 12);
    const notes = Array.from({ length: 30 }, (_, i) => ({ head: words(4, i + 3), body: words(25, i + 700) }));
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Notice board</title>
<link rel="stylesheet" href="/css/kit.css"><link rel="stylesheet" href="/css/board.css"><script src="/js/jquery.js"></script><script src="/js/board.js"></script></head>
<body>${HEAD}<div class="board"></div><main><h1>Notice board</h1><div id="notes"></div>${text(3, 60, 161)}${figures(pictures.map((n) => `/p/${n}.jpg`))}</main></body></html>`,
          {
            waitMs: 160,
            headers: {
              link: `</p/board.jpg>; rel=preload; as=image; fetchpriority=high, <${DATA}>; rel=preconnect; crossorigin`,
            },
          },
        ),
      ],
      [`${WWW}/css/kit.css`, css(BOOTSTRAP_CSS())],
      [`${WWW}/css/board.css`, css(`${BASE_CSS}\n.board{height:480px;background:#bca url(/p/board.jpg) center/cover}`)],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [
        `${WWW}/js/board.js`,
        js(
          `${busy(20, 'board')}\n$(function(){fetch('${DATA}/notes.json').then(function(r){return r.json()}).then(function(l){l.forEach(function(n){$('#notes').append($('<section>').append($('<h2>').text(n.head),$('<p>').text(n.body)))})})});`,
        ),
      ],
      [`${DATA}/notes.json`, { type: 'application/json', gzip: true, body: Buffer.from(JSON.stringify(notes)) }],
      [`${WWW}/p/board.jpg`, await photo('noticeboard', 1600, 1000, 74)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 480, 360, 62)] as const))),
    ]);
  },
};
