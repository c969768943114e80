import { BASE_CSS, busy, css, HEAD, idleRules, js, PAPER, page, photo, text, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/almanac/`;

/** Markup from the server and its data once more for the script; modules that import modules, a frame beside the text, a late bar. */
export const almanac: TruthPage = {
  name: 'almanac',
  held: true,
  late: true,
  about: 'data of half a megabyte in the page, modules in a chain and on demand, a frame, pictures inside styles',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 40 }],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/orchard.jpg`] },
    { name: 'styles in the page', fixes: [`style-inline-critical ${WWW}/css/almanac.css`] },
    { name: 'unused rules removed', fixes: [`style-remove-unused ${WWW}/css/almanac.css`] },
    { name: 'server faster', fixes: [`server-faster ${url} wait=60`] },
  ],
  async files(): Promise<Files> {
    const data = JSON.stringify(Array.from({ length: 1500 }, (_, i) => ({ day: i, text: words(50, 500 + i) })));
    const tile = (await photo('almanac-tile', 160, 120, 60)).body.toString('base64');
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Almanac</title>
<link rel="stylesheet" href="/css/almanac.css"><script type="module" src="/js/start.js"></script></head>
<body>${HEAD}<main><h1>Almanac</h1>${text(1, 60, 101)}<img src="/p/orchard.jpg" alt="The orchard" width="1000" height="800" style="width:100%;height:auto">
${text(3, 60, 102)}<iframe src="/map/" title="Map" width="600" height="400"></iframe><div id="chart"></div></main>
<script type="application/json" id="data">${data}</script></body></html>`,
          { waitMs: 420 },
        ),
      ],
      [
        `${WWW}/css/almanac.css`,
        css(`${BASE_CSS}\nmain{background:url(data:image/jpeg;base64,${tile})}\n${idleRules(600, 'alm')}`),
      ],
      [
        `${WWW}/js/start.js`,
        js(
          `import{days}from'./days.js';import'./menu.js';${busy(40, 'hydrated')}setTimeout(()=>{const b=document.createElement('p');b.textContent='Open today until dusk';document.body.prepend(b)},600);import('./chart.js').then(m=>m.draw(days()));`,
        ),
      ],
      [
        `${WWW}/js/days.js`,
        js(`import{parse}from'./parse.js';export const days=()=>parse(document.getElementById('data').textContent);`),
      ],
      [`${WWW}/js/parse.js`, js(`export const parse=t=>JSON.parse(t);\n/*${words(900, 7)}*/`)],
      [`${WWW}/js/menu.js`, js(busy(15, 'menu'))],
      [
        `${WWW}/js/chart.js`,
        js(
          `export const draw=d=>{document.getElementById('chart').innerHTML=d.slice(0,60).map(x=>'<p>'+x.text+'</p>').join('')};\n(function(){var define;${PAPER()}}).call(window);`,
        ),
      ],
      [
        `${WWW}/map/`,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Map</title><link rel="stylesheet" href="/css/map.css"></head><body><img src="/p/map.jpg" alt="" width="600" height="400"><script src="/js/map.js"></script></body></html>`,
          { waitMs: 90 },
        ),
      ],
      [`${WWW}/css/map.css`, css(`body{margin:0}\n${idleRules(100, 'map')}`)],
      [`${WWW}/js/map.js`, js(busy(45, 'map'))],
      [`${WWW}/p/map.jpg`, await photo('almanac-map', 600, 400, 70)],
      [`${WWW}/p/orchard.jpg`, await photo('almanac-orchard', 1400, 1120, 72)],
    ]);
  },
};
