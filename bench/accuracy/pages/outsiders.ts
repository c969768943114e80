import { outsider, outsiderHosts, PHOTOS, TYPE, WIDGETS, type OutsiderSpec } from '../outsider';
import { WWW } from '../parts';
import type { HostSpec, TruthPage, VariantSpec } from '../site';

type Way = Omit<HostSpec, 'name'>;
const H1: Way = { protocol: 'h1', waitMs: 40 };
const FAIR: Way = { protocol: 'h2', order: 'fair', waitMs: 40 };
const URGENT: Way = { protocol: 'h2', order: 'urgency', waitMs: 40 };

/** Held back by a draw among all pages that were added with these, before any was measured. */
const HELD = new Set(['deck', 'board', 'media', 'panel']);

/** A page of a package, what is special about it, the way its own host and the others send, and what is tried on it. */
function outside(
  name: string,
  about: string,
  [own, others]: readonly [Way, Way],
  spec: OutsiderSpec,
  variants: readonly string[],
  screen?: TruthPage['screen'],
): TruthPage {
  return {
    name,
    held: HELD.has(name),
    about,
    url: `${WWW}/${spec.document}`,
    hosts: outsiderHosts(own, others),
    screen,
    late: true,
    outside: true,
    variants: variants.map((v): VariantSpec => ({ name: v.replaceAll(/https:\/\/[^/]+/g, ''), fixes: v.split(' + ') })),
    files: () => outsider(spec),
  };
}

export const OUTSIDERS: readonly TruthPage[] = [
  outside(
    'slides',
    'a slide show that a script lays out',
    [FAIR, FAIR],
    { package: 'impress.js', document: 'index.html', parts: ['css', 'js', 'favicon.png'], waitMs: 90 },
    [
      `script-defer ${WWW}/js/impress.js`,
      `self-host ${TYPE}/type-1.css`,
      `style-nonblocking ${TYPE}/type-1.css`,
      `minify ${WWW}/js/impress.js + preconnect ${TYPE}/`,
    ],
    'desktop',
  ),
  outside(
    'rows',
    'carousels, most of whose pictures nobody sees at first',
    [H1, FAIR],
    {
      package: 'owl.carousel',
      root: 'docs',
      document: 'demos/lazyLoad.html',
      parts: ['assets'],
      gzip: false,
      waitMs: 60,
    },
    [
      `text-compress *`,
      `script-defer *`,
      `style-remove-unused ${WWW}/assets/css/docs.theme.min.css`,
      `text-compress * + self-host ${TYPE}/type-1.css`,
    ],
  ),
  outside(
    'responsive',
    'a carousel of text that a script builds',
    [URGENT, URGENT],
    { package: 'owl.carousel', root: 'docs', document: 'demos/responsive.html', parts: ['assets'], waitMs: 120 },
    [
      `script-defer *`,
      `style-nonblocking ${WWW}/assets/css/docs.theme.min.css`,
      `preconnect ${TYPE}/`,
      `script-defer * + self-host ${TYPE}/type-1.css`,
    ],
  ),
  outside(
    'thumbs',
    'six photographs and one large script',
    [H1, H1],
    { package: 'lightbox2', document: 'examples/index.html', parts: ['dist', 'src'], waitMs: 50 },
    [`hero-priority *`, `offscreen-lazy *`, `preconnect ${PHOTOS}/`, `hero-preload * + offscreen-lazy *`],
  ),
  outside(
    'landing',
    'modules, and a font of another host',
    [URGENT, FAIR],
    {
      package: 'gentelella',
      root: 'dist',
      document: 'production/landing.html',
      parts: ['js', 'assets', 'images'],
      waitMs: 150,
    },
    [
      `style-inline-critical ${WWW}/assets/main-v4-DB_ReeJG.css`,
      `font-preload ${TYPE}/public-sans.woff2`,
      `self-host ${TYPE}/type-1.css`,
      `style-nonblocking ${TYPE}/type-1.css + style-remove-unused ${WWW}/assets/main-v4-DB_ReeJG.css`,
    ],
  ),
  outside(
    'charts',
    'an application of modules that draws charts from one megabyte of script',
    [FAIR, FAIR],
    {
      package: 'gentelella',
      root: 'dist',
      document: 'production/index.html',
      parts: ['js', 'assets', 'images'],
      waitMs: 100,
    },
    [
      `style-nonblocking ${TYPE}/type-1.css`,
      `style-remove-unused ${WWW}/assets/main-v4-DB_ReeJG.css`,
      `preconnect ${TYPE}/`,
      `style-nonblocking ${WWW}/assets/main-v4-DB_ReeJG.css + self-host ${TYPE}/type-1.css`,
    ],
    'desktop',
  ),
  outside(
    'media',
    'a grid of pictures behind a module',
    [H1, FAIR],
    {
      package: 'gentelella',
      root: 'dist',
      document: 'production/media_gallery.html',
      parts: ['js', 'assets', 'images'],
      waitMs: 80,
    },
    [
      `self-host ${TYPE}/type-1.css`,
      `style-nonblocking ${WWW}/assets/main-v4-DB_ReeJG.css`,
      `font-preload ${TYPE}/public-sans.woff2`,
      `style-nonblocking ${TYPE}/type-1.css + style-inline-critical ${WWW}/assets/main-v4-DB_ReeJG.css`,
    ],
  ),
  outside(
    'board',
    'half a megabyte of style, icons and fonts of other hosts',
    [FAIR, URGENT],
    {
      package: 'material-dashboard',
      document: 'pages/dashboard.html',
      parts: ['assets/css', 'assets/js', 'assets/fonts', 'assets/img'],
      waitMs: 70,
    },
    [
      `script-async ${WIDGETS}/widget-1.js`,
      `style-nonblocking ${TYPE}/type-1.css`,
      `offscreen-lazy *`,
      `script-defer ${WIDGETS}/widget-1.js + self-host ${TYPE}/type-1.css`,
    ],
  ),
  outside(
    'entry',
    'a form over a large background picture',
    [URGENT, URGENT],
    {
      package: 'material-dashboard',
      document: 'pages/sign-in.html',
      parts: ['assets/css', 'assets/js', 'assets/fonts', 'assets/img'],
      waitMs: 60,
    },
    [
      `font-preload ${TYPE}/source-serif-4.woff2`,
      `script-defer ${WIDGETS}/widget-1.js`,
      `self-host ${TYPE}/type-1.css`,
      `style-nonblocking ${TYPE}/type-1.css + script-async ${WIDGETS}/widget-1.js`,
    ],
    'desktop',
  ),
  outside(
    'paper',
    'nothing is compressed, eight scripts at the end',
    [H1, H1],
    { package: 'paper-dashboard', document: 'dashboard.html', parts: ['assets'], gzip: false, waitMs: 110 },
    [
      `text-compress *`,
      `style-remove-unused ${WWW}/assets/css/bootstrap.min.css`,
      `style-nonblocking ${TYPE}/type-1.css`,
      `text-compress * + preconnect ${TYPE}/`,
    ],
  ),
  outside(
    'shuttle',
    'forty pictures in carousels, scripts at the end',
    [H1, H1],
    { package: 'slick-carousel', document: 'index.html', parts: ['slick'], waitMs: 40 },
    [`hero-priority *`, `offscreen-lazy *`, `minify ${WWW}/slick/slick.js`, `preconnect ${PHOTOS}/ + offscreen-lazy *`],
  ),
  outside(
    'deck',
    'slides behind one megabyte of scripts',
    [FAIR, FAIR],
    { package: 'reveal.js', document: 'demo.html', parts: ['dist', 'plugin'], waitMs: 60 },
    [
      `import-flatten *`,
      `style-inline-critical ${WWW}/dist/reveal.css`,
      `offscreen-lazy *`,
      `style-nonblocking ${WWW}/dist/theme/black.css + offscreen-lazy *`,
    ],
  ),
  outside(
    'kit',
    'a showcase over a large background picture, nine scripts at the end',
    [URGENT, FAIR],
    { package: 'now-ui-kit', document: 'examples/landing-page.html', parts: ['assets'], waitMs: 80 },
    [
      `image-resize ${WWW}/assets/img/bg6.jpg`,
      `hero-preload *`,
      `style-nonblocking ${TYPE}/type-2.css`,
      `style-remove-unused ${WWW}/assets/css/bootstrap.min.css + self-host ${TYPE}/type-1.css`,
    ],
  ),
  outside(
    'panel',
    'an administration whose charts are drawn by scripts at the end',
    [FAIR, FAIR],
    { package: 'black-dashboard', document: 'examples/dashboard.html', parts: ['assets'], waitMs: 60 },
    [
      `style-nonblocking ${TYPE}/type-1.css`,
      `style-inline-critical ${WWW}/assets/css/bootstrap.min.css`,
      `self-host ${TYPE}/type-2.css`,
      `style-remove-unused ${WWW}/assets/css/black-dashboard.css?v=1.0.0 + minify ${WWW}/assets/demo/demo.js`,
    ],
    'desktop',
  ),
  outside(
    'reference',
    'documentation that a module of another host builds from what the document says',
    [H1, FAIR],
    {
      package: 'rapidoc',
      root: 'dist',
      document: 'index.html',
      parts: ['rapidoc-min.js'],
      elsewhere: ['rapidoc-min.js'],
      waitMs: 50,
    },
    [
      `self-host ${WIDGETS}/widget-1.js`,
      `preconnect ${WIDGETS}/`,
      `script-async ${WWW}/rapidoc-min.js`,
      `self-host ${WIDGETS}/widget-1.js + script-async ${WWW}/rapidoc-min.js`,
    ],
  ),
  outside(
    'forms',
    'documentation with a long list',
    [H1, H1],
    {
      package: 'spectre.css',
      root: 'docs',
      document: 'elements/forms.html',
      parts: ['dist', 'img'],
      gzip: false,
      waitMs: 70,
    },
    [
      `text-compress *`,
      `style-remove-unused ${WWW}/dist/docs.min.css`,
      `style-nonblocking ${WWW}/dist/spectre-exp.min.css`,
      `text-compress * + style-inline-critical ${WWW}/dist/spectre.min.css`,
    ],
    'desktop',
  ),
  outside(
    'sheet',
    'a document of more than one megabyte',
    [FAIR, FAIR],
    { package: 'ionicons', document: 'cheatsheet.html', parts: ['css', 'fonts'], waitMs: 90 },
    [
      `style-nonblocking ${WWW}/css/ionicons.css`,
      `minify ${WWW}/css/ionicons.css`,
      `style-inline-critical ${WWW}/css/ionicons.css`,
      `minify ${WWW}/css/ionicons.css + style-nonblocking ${WWW}/css/ionicons.css`,
    ],
  ),
];
