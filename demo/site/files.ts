import fs from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { MEDIA } from './hosts';

const require = createRequire(import.meta.url);
/** A library's file; its source map is called by a name of the site's own. */
const fromPackage = (name: string, file: string) => {
  const text = fs.readFileSync(path.join(path.dirname(require.resolve(`${name}/package.json`)), file), 'utf8');
  return Buffer.from(text.replace(/(sourceMappingURL=)[\w.-]+(\.(?:css|js)\.map)/, '$1site$2'));
};

/** A file of the site: body and type. */
export interface DemoFile {
  readonly type: string;
  readonly body: Buffer;
}

const css = (text: string): DemoFile => ({ type: 'text/css; charset=utf-8', body: Buffer.from(text) });
const js = (text: string): DemoFile => ({ type: 'text/javascript; charset=utf-8', body: Buffer.from(text) });

const SITE_CSS = `@import "/css/type.css";
:root{--moss:#33453c;--cream:#f6f3ea;--fern:#4d7a57}
body{background:var(--cream);color:#26302b;font-family:"Garden Serif",Georgia,serif;line-height:1.6}
h1,h2,h3,.brand{font-family:"Garden Serif",Georgia,serif;font-weight:600}
.site-head{background:var(--moss);color:#eef2ea;padding:14px 20px;display:flex;gap:24px;align-items:center;flex-wrap:wrap}
.site-head a{color:#eef2ea;text-decoration:none;margin-right:16px}
.brand{font-size:1.3rem}
.drawer{display:none}.drawer.open{display:flex;gap:12px;background:#fff;padding:12px}
.banner{position:relative;overflow:hidden;background:#dfe6da}
.banner img{display:block;width:100%;height:auto;aspect-ratio:5/3;object-fit:cover}
.banner .over{position:absolute;left:20px;bottom:20px;background:rgba(246,243,234,.9);padding:10px 16px}
.home-banner{height:430px;background:#cfdac8 url("${MEDIA}/p/home-border.jpg") center/cover}
@media (min-width:900px){.home-banner{height:520px}}
main{max-width:1060px;margin:0 auto;padding:0 18px 40px}
.grid{display:grid;grid-template-columns:repeat(2,1fr);gap:14px;margin:18px 0}
@media (min-width:900px){.grid{grid-template-columns:repeat(4,1fr)}}
.grid img{width:100%;height:auto;aspect-ratio:4/3;object-fit:cover;display:block;background:#e3e7dc}
.grid figcaption{font-size:.85rem;color:#55625a}
.note{background:#fff;border-left:4px solid var(--fern);padding:12px 16px;margin:18px 0}
.site-foot{background:#26302b;color:#cfd6cd;padding:24px 20px;font-size:.9rem}
.site-foot a{color:#cfd6cd}
`;

const TYPE_CSS = `@font-face{font-family:"Garden Serif";src:url("/fonts/garden-serif.woff2") format("woff2");font-weight:200 900;font-display:swap}
h1{font-size:2rem;margin:22px 0 10px}h2{font-size:1.4rem;margin:26px 0 8px}p{margin:0 0 12px}
`;

/** The loader that keeps pictures back until it has run. */
const LATER_JS = `(function ($) {
  function show(img) { var full = img.getAttribute('data-full'); if (full) { img.src = full; img.removeAttribute('data-full'); } }
  $(function () {
    var near = window.innerHeight + 300;
    $('img.later').each(function () { if (this.getBoundingClientRect().top < near) show(this); });
    $(window).on('scroll', function () { $('img.later[data-full]').each(function () { if (this.getBoundingClientRect().top < near) show(this); }); });
  });
})(jQuery);
`;

const CAROUSEL_JS = `(function () {
  var stage = document.getElementById('carousel');
  if (!stage) return;
  var slides = JSON.parse(stage.getAttribute('data-slides'));
  function build(i) {
    var img = new Image();
    img.alt = slides[i].alt; img.className = 'slide'; img.width = 1000; img.height = 600; img.src = slides[i].src;
    stage.innerHTML = ''; stage.appendChild(img);
  }
  build(0);
})();
`;

const MENU_JS = `(function ($) {
  $(function () {
    $('.menu-button').on('click', function () { $('.drawer').toggleClass('open'); });
    var seasons = ['winter', 'spring', 'summer', 'autumn'];
    $('.season').text(seasons[Math.floor((new Date().getMonth() % 12) / 3)]);
  });
  var words = [], i; for (i = 0; i < 40000; i++) { words.push('leaf' + (i % 97)); }
  window.gardenIndex = words.reduce(function (all, w) { all[w] = (all[w] || 0) + 1; return all; }, {});
})(jQuery);
`;

const SIGN_JS = `window.gardenSign = function (name) { return 'Welcome to ' + name; };
document.documentElement.setAttribute('data-sign', window.gardenSign('Fernhollow'));
`;

const COUNT_JS = `(function () { var seen = 0, t = Date.now(); while (Date.now() - t < 12) { seen++; } window.petals = seen; var i = new Image(); i.src = 'https://count.petalmetrics.example/hit.gif?p=' + encodeURIComponent(location.pathname); })();
`;

const MAP_JS = `document.addEventListener('DOMContentLoaded', function () { var m = document.getElementById('map'); if (m) { m.textContent = 'Map of the lanes around the garden'; } });
`;

const GIF = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64');

const LOGO = `<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40" viewBox="0 0 40 40"><circle cx="20" cy="20" r="19" fill="#4d7a57"/><path d="M20 34V10M20 16c-5 0-8-3-9-7 5 0 9 2 9 7zm0 8c5 0 8-3 9-7-5 0-9 2-9 7z" stroke="#f6f3ea" stroke-width="2" fill="none"/></svg>`;

/** Files by host-independent path; every host serves what it is asked for. */
export function siteFiles(): ReadonlyMap<string, DemoFile> {
  return new Map<string, DemoFile>([
    ['/css/frame.css', { type: 'text/css; charset=utf-8', body: fromPackage('bootstrap', 'dist/css/bootstrap.css') }],
    [
      '/css/frame.min.css',
      { type: 'text/css; charset=utf-8', body: fromPackage('bootstrap', 'dist/css/bootstrap.min.css') },
    ],
    ['/css/site.css', css(SITE_CSS)],
    ['/css/type.css', css(TYPE_CSS)],
    ['/css/clean.css', css(TYPE_CSS + SITE_CSS.replace(/@import[^\n]*\n/, '').replace(/\.home-banner\{[^}]*\}/, ''))],
    ['/css/print.css', css('.site-head,.site-foot{display:none}')],
    [
      '/css/plaque.css',
      css(
        '.plaque{background:url("http://media.fernhollow.example/p/leaf-8.jpg") center/cover;min-height:120px;padding:16px;color:#fff}',
      ),
    ],
    ['/js/kit.js', { type: 'text/javascript; charset=utf-8', body: fromPackage('jquery', 'dist/jquery.js') }],
    [
      '/js/frame.js',
      { type: 'text/javascript; charset=utf-8', body: fromPackage('bootstrap', 'dist/js/bootstrap.bundle.js') },
    ],
    // Once in the head of two pages (months.ts).
    [
      '/js/atlas.js',
      { type: 'text/javascript; charset=utf-8', body: fromPackage('bootstrap', 'dist/js/bootstrap.js') },
    ],
    [
      '/js/tour.js',
      { type: 'text/javascript; charset=utf-8', body: fromPackage('bootstrap', 'dist/js/bootstrap.bundle.js') },
    ],
    ['/js/menu.js', js(MENU_JS)],
    ['/js/sign.js', js(SIGN_JS)],
    ['/js/later.js', js(LATER_JS)],
    ['/js/carousel.js', js(CAROUSEL_JS)],
    ['/count.js', js(COUNT_JS)],
    ['/lanes.js', js(MAP_JS)],
    ['/hit.gif', { type: 'image/gif', body: GIF }],
    ['/p/blank.gif', { type: 'image/gif', body: GIF }],
    ['/i/logo.svg', { type: 'image/svg+xml', body: Buffer.from(LOGO) }],
    ['/favicon.ico', { type: 'image/svg+xml', body: Buffer.from(LOGO) }],
    [
      '/fonts/garden-serif.woff2',
      {
        type: 'font/woff2',
        body: fromPackage('@fontsource-variable/source-serif-4', 'files/source-serif-4-latin-wght-normal.woff2'),
      },
    ],
  ]);
}
