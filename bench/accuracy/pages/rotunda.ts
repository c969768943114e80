import { BASE_CSS, busy, css, HEAD, idleRules, js, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/rotunda/`;

/** A small picture at first; a script puts in a larger one after a while, and text when the browser has nothing to do. */
export const rotunda: TruthPage = {
  name: 'rotunda',
  held: true,
  late: true,
  about: 'a larger picture that a timer puts in, text that comes when nothing else is to be done',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h1', waitMs: 50 }],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/dome.jpg`] },
    { name: 'script deferred', fixes: [`script-defer ${WWW}/js/rotunda.js`] },
    { name: 'styles not blocking', fixes: [`style-inline-critical ${WWW}/css/rotunda.css`] },
    { name: 'server faster', fixes: [`server-faster ${url} wait=60`] },
  ],
  async files(): Promise<Files> {
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Rotunda</title>
<link rel="stylesheet" href="/css/rotunda.css"><script src="/js/rotunda.js"></script></head>
<body>${HEAD}<main><h1>Rotunda</h1><div id="stage"><img src="/p/door.jpg" alt="The door" width="320" height="240"></div>${text(3, 50, 111)}<aside id="news"></aside></main></body></html>`,
          { waitMs: 260 },
        ),
      ],
      [`${WWW}/css/rotunda.css`, css(`${BASE_CSS}\n${idleRules(350, 'rot')}`)],
      [
        `${WWW}/js/rotunda.js`,
        js(
          `${busy(35, 'rotunda')}document.addEventListener('DOMContentLoaded',function(){setTimeout(function(){document.getElementById('stage').innerHTML='<img src="/p/dome.jpg" alt="The dome" width="1000" height="800" style="width:100%;height:auto">'},700);requestIdleCallback(function(){document.getElementById('news').innerHTML='<p>The dome is open every day.</p>'})});`,
        ),
      ],
      [`${WWW}/p/door.jpg`, await photo('rotunda-door', 320, 240, 70)],
      [`${WWW}/p/dome.jpg`, await photo('rotunda-dome', 1400, 1120, 72)],
    ]);
  },
};
