import { BASE_CSS, busy, css, font, HEAD, idleRules, js, page, photo, text, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/essay/`;
const ADS = 'https://ads.thistlemedia.example';
const FONT = `${WWW}/f/serif.woff2`;

/** A long read: text is the hero, drawings stand in the markup, advertisements make room for themselves, comments come near the end. */
export const essay: TruthPage = {
  name: 'essay',
  held: true,
  late: true,
  about: 'a long read with a text hero, drawings in the markup, advertisements that push and comments on demand',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h1', waitMs: 45 },
    { name: 'ads.thistlemedia.example', protocol: 'h2', order: 'fair', waitMs: 110 },
  ],
  variants: [
    { name: 'font preloaded', fixes: [`font-preload ${FONT}`] },
    { name: 'styles in the page', fixes: [`style-inline-critical ${WWW}/css/essay.css`] },
    { name: 'script deferred', fixes: [`script-defer ${WWW}/js/essay.js`] },
    { name: 'advertisements later', fixes: [`script-async ${ADS}/place.js`] },
    { name: 'server faster', fixes: [`server-faster ${url} wait=60`] },
  ],
  async files(): Promise<Files> {
    const leaves = Array.from(
      { length: 140 },
      (_, i) =>
        `<path d="M${i * 5} ${(i * 37) % 200}q${(i * 13) % 40} ${(i * 7) % 60} ${(i * 29) % 80} 9z" fill="hsl(${(i * 11) % 140} 40% 45%)"/>`,
    ).join('');
    const drawing = `<svg viewBox="0 0 700 260" width="700" height="260" style="width:100%;height:auto" role="img" aria-label="Leaves">${leaves}</svg>`;
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Essay</title>
<link rel="stylesheet" href="/css/essay.css"><script src="/js/essay.js"></script><script src="${ADS}/place.js"></script></head>
<body>${HEAD}<main><h1>On hedges</h1><p class="lead">${words(70, 130)}</p>${drawing}<div class="ad"></div>${text(30, 90, 131)}<div class="ad"></div><section id="comments"></section></main>
<script>new IntersectionObserver(function(e,o){if(!e[0].isIntersecting)return;o.disconnect();var s=document.createElement('script');s.src='/js/comments.js';document.body.appendChild(s)},{rootMargin:'300px'}).observe(document.getElementById('comments'))</script></body></html>`,
          { waitMs: 520 },
        ),
      ],
      [
        `${WWW}/css/essay.css`,
        css(
          `@font-face{font-family:Essay;src:url(${FONT}) format("woff2");font-display:block}\n${BASE_CSS}\nbody{font-family:Essay,serif}.lead{font-size:1.3rem}\n${idleRules(300, 'ess')}`,
        ),
      ],
      [FONT, font('@fontsource-variable/source-serif-4', 'source-serif-4-latin-wght-normal.woff2')],
      [`${WWW}/js/essay.js`, js(busy(20, 'essay'))],
      [
        `${ADS}/place.js`,
        js(
          `${busy(30, 'ads')}setTimeout(function(){document.querySelectorAll('.ad').forEach(function(a,i){var f=document.createElement('img');f.width=320;f.height=100;f.src='${ADS}/b/'+i+'.jpg';a.appendChild(f)})},150);`,
        ),
      ],
      [`${ADS}/b/0.jpg`, await photo('ad-0', 320, 100, 70)],
      [`${ADS}/b/1.jpg`, await photo('ad-1', 320, 100, 70)],
      [`${WWW}/js/comments.js`, js(busy(15, 'comments'))],
    ]);
  },
};
