import { BASE_CSS, busy, css, D3, js, page, photo, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/seasons/`;

/** As people write it: a script that builds the page. */
const APP = `
/* Builds the page of the seasons. Everything that a visitor sees is made here,
   from the list of seasons below. */
(function () {
  // One entry for each season, with its picture and its words.
  var seasons = [
${['Spring', 'Summer', 'Autumn', 'Winter'].map((s, i) => `    { name: '${s}', words: '${words(120, i + 40)}' },`).join('\n')}
  ];
  var root = document.getElementById('app');
  // The head of the page.
  var head = document.createElement('header');
  head.className = 'site-head';
  head.textContent = 'Fernhollow Botanic Garden';
  root.appendChild(head);
  // The large picture.
  var banner = document.createElement('div');
  banner.className = 'banner';
  var picture = document.createElement('img');
  picture.alt = 'The border in autumn';
  picture.width = 1000;
  picture.height = 900;
  picture.src = '/p/autumn.jpg';
  banner.appendChild(picture);
  root.appendChild(banner);
  // A section for each season.
  var main = document.createElement('main');
  seasons.forEach(function (season) {
    var title = document.createElement('h2');
    title.textContent = season.name;
    main.appendChild(title);
    var text = document.createElement('p');
    text.textContent = season.words;
    main.appendChild(text);
  });
  root.appendChild(main);
  d3.select(root).append('svg').attr('width', 300).attr('height', 80).selectAll('rect').data([3, 8, 6, 2]).enter()
    .append('rect').attr('x', function (d, i) { return i * 60; }).attr('y', 0).attr('width', 40).attr('height', function (d) { return d * 8; });
})();
${Array.from({ length: 160 }, (_, i) => `\n// Name of plant number ${i}: ${words(8, i + 300)}\nfunction plantName${i}(plant) {\n    /* ${words(10, i + 700)} */\n    return plant.family + ' ' + plant.name + ' ${i}';\n}`).join('\n')}
`;

/** Nothing in the markup: a script builds the page and its hero; text comes uncompressed. */
export const seasons: TruthPage = {
  name: 'seasons',
  held: false,
  about: 'built by a script, text uncompressed',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 }],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'content in the HTML', fixes: ['content-in-html *'] },
    { name: 'text compressed', fixes: ['text-compress *'] },
    { name: 'script minified', fixes: [`minify ${WWW}/js/app.js`] },
    { name: 'hero re-encoded', fixes: [`image-resize ${WWW}/p/autumn.jpg`] },
    { name: 'preloaded and compressed', fixes: ['hero-preload *', 'text-compress *'] },
  ],
  async files(): Promise<Files> {
    const plain = { gzip: false };
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Seasons</title>
<link rel="stylesheet" href="/css/site.css"></head><body><div id="app"></div>
<script src="/js/d3.js"></script><script src="/js/app.js"></script></body></html>`,
          { ...plain, waitMs: 60 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS, plain)],
      [`${WWW}/js/d3.js`, js(D3() + busy(12), plain)],
      [`${WWW}/js/app.js`, js(APP, plain)],
      [`${WWW}/p/autumn.jpg`, await photo('seasons-autumn', 1300, 1170, 68)],
    ]);
  },
};
