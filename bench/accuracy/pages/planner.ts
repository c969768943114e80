import { BASE_CSS, busy, css, D3, idleRules, js, page, photo, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/planner/`;
const DATA = 'https://data.fernhollow.example';

/** Starts when the page has loaded, asks for its data, then draws. */
const APP = `${busy(40, 'boot')}
addEventListener('load', function () {
  var shell = document.getElementById('app');
  shell.textContent = 'One moment';
  fetch('${DATA}/beds.json').then(function (answer) { return answer.json(); }).then(function (beds) {
    shell.textContent = '';
    var picture = document.createElement('img');
    picture.src = '/p/plan.jpg'; picture.width = 1000; picture.height = 800; picture.className = 'plan';
    shell.appendChild(picture);
    beds.forEach(function (bed) {
      var row = document.createElement('section');
      row.innerHTML = '<h2>' + bed.name + '</h2><p>' + bed.words + '</p>';
      shell.appendChild(row);
    });
  });
});`;

export const planner: TruthPage = {
  name: 'planner',
  held: true,
  late: true,
  about: 'an application that starts at load, asks for data, then draws',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 35 },
    { name: 'data.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 160 },
  ],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'content in the HTML', fixes: ['content-in-html *'] },
    { name: 'data host preconnected', fixes: [`preconnect ${DATA}/`] },
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/plan.jpg`] },
    { name: 'sheet later', fixes: [`style-nonblocking ${WWW}/css/planner.css`] },
    { name: 'preloaded, preconnected', fixes: ['hero-preload *', `preconnect ${DATA}/`] },
  ],
  async files(): Promise<Files> {
    const beds = Array.from({ length: 60 }, (_, i) => ({ name: words(3, i), words: words(40, i + 500) }));
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Planner</title>
<link rel="stylesheet" href="/css/planner.css"></head><body><div id="app"></div><script src="/js/d3.js" defer></script><script src="/js/planner.js" defer></script></body></html>`,
          { waitMs: 60 },
        ),
      ],
      [
        `${WWW}/css/planner.css`,
        css(`${BASE_CSS}\n.plan{display:block;width:100%;height:auto}\n${idleRules(300, 'pln')}`),
      ],
      [`${WWW}/js/d3.js`, js(D3())],
      [`${WWW}/js/planner.js`, js(APP)],
      [`${WWW}/p/plan.jpg`, await photo('planner-plan', 1500, 1200, 66)],
      [`${DATA}/beds.json`, { type: 'application/json', gzip: true, body: Buffer.from(JSON.stringify(beds)) }],
    ]);
  },
};
