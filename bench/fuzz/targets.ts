import fs from 'node:fs';
import path from 'node:path';
import { bodiesInMemory } from '../../src/core/capture/capture';
import { InputError } from '../../src/core/capture/errors';
import { readCaptures } from '../../src/core/capture/readers';
import { VISITORS } from '../../src/core/load/visitors';
import { auditPage } from '../../src/core/plan/audit';
import { forecast } from '../../src/core/plan/forecast';
import { readPageFacts } from '../../src/core/site/pageFacts';
import { keeps } from '../../src/core/site/patterns';
import { readRobots } from '../../src/core/site/robots';
import { scopeOf } from '../../src/core/site/scope';
import { defaultSettings } from '../../src/core/site/settings';
import { readSitemap } from '../../src/core/site/sitemap';
import { readUrlList, urlsOf } from '../../src/core/site/urlList';
import { readPage } from '../../src/core/source/page';
import { readHostMap } from '../../src/engine/net/hostMap';
import { projectRoot } from '../../src/engine/store/store';
import { har, PAGE } from '../../test/fixtures/har';
import { mutateJson, mutateText, type Chance } from './mutate';

/** One format that comes from outside. */
export interface Target {
  readonly name: string;
  /** Share of all inputs: what is quick gets more. */
  readonly weight: number;
  readonly make: (chance: Chance) => string;
  /** Takes an input all the way. Throws what a user is not told in words. */
  readonly run: (text: string) => void;
}

const pick = <T>(list: readonly T[], chance: Chance): T => list[chance(list.length)] as T;

const HTML = `<!doctype html><html lang=en><head><base href="/x/"><meta http-equiv=refresh content="9;url=/a"><title>Fern</title>
<link rel="stylesheet" media="(min-width: 20em) and (hover)" href=/s.css><link rel=preload as=image imagesrcset="/a.jpg 1x, /b.jpg 2x" href=/a.jpg>
<script type="application/ld+json">{"@id":"http://a.example/","password":"x1y2z3a4"}</script><script src=/j.js defer></script>
<style>@import url("t.css"); .hero{background:url(http://x.example/c.jpg)} @media print{p{color:red}}</style></head><body onload="x()">
<picture><source srcset="/a.jpg 400w, http://b.example/b.jpg 800w" sizes="(max-width: 600px) calc(100vw - 2em), 50vw"><img src=/a.jpg width=400 height="50%" loading=lazy></picture>
<form action=http://a.example/go><input type=hidden name=csrf_token value=abc123def456></form><svg><use href="http://a.example/i.svg#x"/></svg>
<template><img src=/t.jpg></template><a href="?token=abc&amp;x=1#top" rel="nofollow">A</a><iframe srcdoc="&lt;img src=/q.jpg>"></iframe></body></html>`;
const HTML_WORDS =
  '<svg>|<math>|<template>|</template>|<table>|<select>|<plaintext>|<!--|-->|<![CDATA[|</p>|<frameset>|<a href="|srcset="|sizes="|style="|"|\'|&#x0;|&amp|=|/>|<base href="//">|<meta charset=utf-16>|<script>|</script>|<style>|</style>|<title>|<body>|<html>|javascript:|http://|rel=stylesheet|<img src=|<b>|<i>'.split(
    '|',
  );
const CSS = `@charset "utf-8"; @import url("t.css") layer(a) supports(display: grid) screen and (width >= 30em); @namespace svg url(http://www.w3.org/2000/svg);
:root{--a: 10px} .a:has(> img):not(.b, #c) ~ p::before{content:"\\201C";background:url(/a.jpg) , url( "http://x.example/b.png" )}
@media (min-width: calc(10px * 2)) and (not (hover)), print { .a { & .b:hover, &.c { width: min(100%, 20rem) } @media (400px < width < 800px) { color: red } } }
@font-face{font-family:"Fern";src:url(f.woff2) format("woff2"), url(f.woff);font-display:swap}
@keyframes k{from{opacity:0}to{opacity:1}} @supports (display: grid) { p:nth-child(2n+1 of .a){animation:k 1s;visibility:hidden} } @layer a, b;`;
const CSS_WORDS =
  '{|}|(|)|[|]|;|:|,|/*|*/|"|\\|@media|@import|@supports|@layer|@container|:has(|:is(|:not(|:nth-child(|calc(|min(|var(--a)|url(|!important|>|~|+|*|&|::before|1e999px|-0|100vw|em|\\0|<!--|constructor|__proto__|(constructor: 1)'.split(
    '|',
  );
const ROBOTS = `User-agent: *\nDisallow: /shut/*.pdf$\nAllow: /shut/open\nCrawl-delay: 3\n\nUser-agent: KeenLens\nUser-agent: other/2\nDisallow: /a%2Fb\nSitemap: https://a.example/map.xml`;
const ROBOTS_WORDS =
  'User-agent:|Disallow:|Allow:|Sitemap:|Crawl-delay:|*|$|/|%|%zz|#|\r|\n|1e999|-1|KeenLens|\ufeff'.split('|');
const SITEMAP = `<?xml version="1.0" encoding="UTF-8"?><!DOCTYPE urlset [<!ENTITY a "b">]><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9" xmlns:i="x"><url><loc>https://a.example/?a=1&amp;b=2</loc><lastmod>2026-11-01</lastmod></url><url><loc><![CDATA[/b]]></loc></url></urlset>`;
const SITEMAP_WORDS =
  '<url>|</url>|<loc>|</loc>|<sitemapindex>|<sitemap>|<![CDATA[|]]>|&a;|&#x10FFFF;|&#0;|<!DOCTYPE|<!ENTITY x "&x;&x;">|<?xml|?>|xmlns="|"|https://'.split(
    '|',
  );
const LIST = 'name;address;"note ""x"""\nFern;https://a.example/a;1\nMoss;/b,2;"two\nlines"\n;www.a.example/c;\n';
const LIST_WORDS = '"|;|,|\t|\n|\r|""|https://|//|=cmd()|\ufeff|www.'.split('|');
const SETTINGS = JSON.stringify({
  home: 'https://www.a.example/',
  include: ['/plants/*', 're:^https?://x'],
  exclude: ['*?print=*'],
  ignoreParameters: ['utm_*'],
  mapHosts: ['www.a.example:443=127.0.0.1:8443'],
  subdomains: true,
});

/** A WARC record; what stands in it is not counted anew after changes, as broken tools do not count either. */
const record = (type: string, url: string, block: string, more = '') =>
  `WARC/1.1\r\nWARC-Type: ${type}\r\nWARC-Target-URI: ${url}\r\nWARC-Date: 2026-11-12T10:00:00Z\r\nContent-Type: application/http;msgtype=response\r\n${more}Content-Length: ${block.length}\r\n\r\n${block}\r\n\r\n`;
const answer = (type: string, body: string, more = '') =>
  `HTTP/1.1 200 OK\r\nContent-Type: ${type}\r\n${more}\r\n${body}`;
const WARC = [
  record('response', 'http://www.fernhollow.example/', `HTTP/1.1 301 x\r\nLocation: ${PAGE}\r\n\r\n`),
  record(
    'response',
    PAGE,
    answer('text/html', '<link rel=stylesheet href=/s.css><h1>Beds</h1><img src=/a.jpg><iframe src=/f/>'),
  ),
  record(
    'response',
    `${PAGE}s.css`,
    answer('text/css', '8\r\nh1{a:b}\n\r\n0\r\n\r\n', 'Transfer-Encoding: chunked\r\n'),
  ),
  record('response', `${PAGE}a.jpg`, answer('image/jpeg', 'JPG'), 'WARC-Payload-Digest: sha1:A\r\n'),
  record('revisit', `${PAGE}b.jpg`, answer('image/jpeg', ''), 'WARC-Payload-Digest: sha1:A\r\n'),
  record('response', `${PAGE}f/`, answer('text/html', '<p>Frame', 'Content-Encoding: gzip\r\n')),
].join('');
const WARC_WORDS =
  'WARC/1.0|WARC/1.1|\r\n|\r\n\r\n|\n|Content-Length: 0|Content-Length: 99999999|Content-Length: -1|WARC-Type: revisit|WARC-Type: continuation|Transfer-Encoding: chunked|Content-Encoding: deflate|ffffffff|0\r\n|HTTP/1.1 200|HTTP/9|Location: /|text/html|:'.split(
    '|',
  );
const MHTML = `From: <Saved>\r\nSnapshot-Content-Location: ${PAGE}\r\nDate: Thu, 12 Nov 2026 10:00:00 -0000\r\nContent-Type: multipart/related;\r\n\ttype="text/html"; boundary="--b"\r\n\r\n----b\r\nContent-Type: text/html\r\nContent-ID: <f@x>\r\nContent-Transfer-Encoding: quoted-printable\r\nContent-Location: ${PAGE}\r\n\r\n<link rel=3D"stylesheet" href=3D"cid:c@x"><h1>Caf=C3=A9</h1><img src=3D"cid:p@x">=\r\n\r\n----b\r\nContent-Type: text/css\r\nContent-Location: cid:c@x\r\n\r\nh1{color:red}\r\n----b\r\nContent-Type: image/png\r\nContent-ID: <p@x>\r\nContent-Transfer-Encoding: base64\r\nContent-Location: ${PAGE}p.png\r\n\r\nUE5H\r\n----b--\r\n`;
const MHTML_WORDS =
  '----b|----b--|--|=|=3D|=C3|=\r\n|cid:|cid:c@x|boundary="|boundary=|Content-Transfer-Encoding: base64|Content-Transfer-Encoding: binary|Content-Location: |Content-ID: <|multipart/related|text/html|\r\n\r\n|%zz|</style'.split(
    '|',
  );
const SAVED = `<!doctype html>\n<!-- saved from url=(0032)${PAGE} -->\n<html><head><link rel="canonical" href="${PAGE}"><link rel="stylesheet" href="x_files/s.css"></head><body><h1>Beds</h1><img src="x_files/a.jpg"></body></html>`;
const latin1 = (text: string) => Buffer.from(text, 'latin1');

const captures = (text: string | Uint8Array) => {
  const bytes = typeof text === 'string' ? Buffer.from(text) : text;
  for (const { capture, bodies } of readCaptures(bytes, 'fuzz.har')) {
    const audit = auditPage(readPage(capture, bodiesInMemory(bodies)));
    const [visitor] = VISITORS;
    if (!visitor) throw new Error('no visitor');
    const { before } = forecast(audit.graph, audit.fixes.slice(0, 2), visitor);
    if (!Number.isFinite(before.lcpMs)) throw new Error('a forecast that is no number');
  }
};
const page = (html: string, css?: string) =>
  JSON.stringify(
    har([
      { url: PAGE, body: html },
      { url: `${PAGE}s.css`, body: css ?? '@import "t.css"; p{color:red}', start: 30 },
      { url: `${PAGE}j.js`, body: 'fetch("/data.json?token=abc")', start: 31 },
      { url: `${PAGE}a.jpg`, bytes: 90_000, start: 90 },
    ]),
  );
const FILES = [
  page(HTML),
  JSON.stringify(
    har(
      [
        { url: PAGE, body: HTML },
        { url: `${PAGE}b.jpg`, bytes: 9000 },
      ],
      { hero: { timeMs: 300, size: 9, tag: 'img', url: `${PAGE}b.jpg` } },
    ),
  ),
];

/** What the console snippet saves. */
const TOLD = JSON.stringify({
  keenLensPage: 1,
  url: `${PAGE}#x`,
  began: '2026-11-12T10:00:00.000Z',
  screen: { width: 400, height: 860, density: 2.5, touch: true },
  navigation: {
    name: PAGE,
    startTime: 0,
    connectStart: 5,
    connectEnd: 40,
    requestStart: 41,
    responseStart: 90,
    responseEnd: 99,
  },
  resources: [
    {
      name: `${PAGE}s.css`,
      initiatorType: 'link',
      renderBlockingStatus: 'blocking',
      startTime: 100,
      responseStart: 120,
      responseEnd: 130,
      encodedBodySize: 90,
      decodedBodySize: 900,
      serverTiming: [{ name: 'db', duration: 3 }],
    },
    { name: 'https://a.example/b.jpg', initiatorType: 'img', startTime: 110, responseEnd: 400, responseStatus: 404 },
  ],
  paints: [{ name: 'first-contentful-paint', startTime: 300 }],
  largestPaints: [{ timeMs: 400, size: 9, url: 'https://a.example/b.jpg', box: { x: 0, y: 0, width: 9, height: 9 } }],
  shifts: [{ value: 0.1, hadRecentInput: false }],
  longTasks: [{ startTime: 9, duration: 90 }],
  pictures: [{ path: 'html:nth-of-type(1)', url: 'https://a.example/b.jpg', use: 'img', box: {}, visible: true }],
  html: HTML,
  contents: { [`${PAGE}#x`]: { text: HTML, headers: [['content-type', 'text/html']] } },
});

/** Every format that comes from outside: captures of all kinds, pages, styles, robots.txt, sitemaps, lists, settings. */
export const TARGETS: readonly Target[] = [
  { name: 'har', weight: 3, make: (c) => mutateJson(pick(FILES, c), c), run: captures },
  {
    name: 'html',
    weight: 3,
    make: (c) => mutateText(HTML, HTML_WORDS, c),
    run: (text) => {
      captures(page(text));
      readPageFacts(text, PAGE);
    },
  },
  { name: 'css', weight: 3, make: (c) => mutateText(CSS, CSS_WORDS, c), run: (text) => captures(page(HTML, text)) },
  { name: 'warc', weight: 3, make: (c) => mutateText(WARC, WARC_WORDS, c), run: (text) => captures(latin1(text)) },
  { name: 'mhtml', weight: 3, make: (c) => mutateText(MHTML, MHTML_WORDS, c), run: (text) => captures(latin1(text)) },
  { name: 'console', weight: 3, make: (c) => mutateJson(TOLD, c), run: captures },
  { name: 'saved', weight: 2, make: (c) => mutateText(SAVED, HTML_WORDS, c), run: (text) => captures(latin1(text)) },
  {
    name: 'robots',
    weight: 4,
    make: (c) => mutateText(ROBOTS, ROBOTS_WORDS, c),
    run: (text) => {
      const robots = readRobots('https://a.example/robots.txt', text);
      for (const at of ['/', '/shut/a.pdf', '/a/b?x=%2F', '/\u00fc']) robots.allows(`https://a.example${at}`);
    },
  },
  {
    name: 'sitemap',
    weight: 3,
    make: (c) => mutateText(SITEMAP, SITEMAP_WORDS, c),
    run: (text) => void readSitemap(text, 'https://a.example/map.xml'),
  },
  {
    name: 'list',
    weight: 2,
    make: (c) => mutateText(LIST, LIST_WORDS, c),
    run: (text) => {
      const list = readUrlList(text);
      for (let i = 0; i < 4; i++) urlsOf(list, i, 'https://a.example/');
    },
  },
  {
    name: 'settings',
    weight: 2,
    make: (c) => mutateJson(SETTINGS, c),
    run: (text) => {
      const given = parsed(text);
      const strings = (value: unknown) => (Array.isArray(value) ? value.filter((v) => typeof v === 'string') : []);
      const home = typeof given.home === 'string' && URL.canParse(given.home) ? given.home : 'https://www.a.example/';
      for (const line of strings(given.mapHosts)) tolerate(() => readHostMap(line));
      tolerate(() => keeps(strings(given.include), strings(given.exclude))('https://www.a.example/plants/x?print=1'));
      tolerate(() =>
        scopeOf({ ...defaultSettings(home), include: strings(given.include), exclude: strings(given.exclude) })(home),
      );
    },
  },
];

function parsed(text: string): Record<string, unknown> {
  try {
    const value = JSON.parse(text) as unknown;
    return value !== null && typeof value === 'object' ? (value as Record<string, unknown>) : {};
  } catch {
    return {};
  }
}

/** Runs something that may refuse its input in words. */
export function tolerate(run: () => unknown): void {
  try {
    run();
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    if (!error.what || !error.where || !error.next) throw new Error('an error that does not say what, where or next');
  }
}

/** A target by chance, by weight. */
export function chooseTarget(chance: Chance): Target {
  let at = chance(TARGETS.reduce((sum, t) => sum + t.weight, 0));
  for (const target of TARGETS) {
    at -= target.weight;
    if (at < 0) return target;
  }
  throw new Error('no target');
}

/** Folder of inputs that once failed; a file is called by its target: `css-….txt`. */
export const CORPUS = path.join(projectRoot(), 'test/fixtures/fuzz');

/** Inputs that once failed, with their target. */
export function corpus(): { file: string; target: Target; text: string }[] {
  return fs.readdirSync(CORPUS).map((file) => {
    const target = TARGETS.find((t) => file.startsWith(`${t.name}-`));
    if (!target) throw new Error(`${file} names no target`);
    return { file, target, text: fs.readFileSync(path.join(CORPUS, file), 'utf8') };
  });
}
