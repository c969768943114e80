import { BASE_CSS, busy, css, HEAD, idleRules, js, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/bulletin/`;

/** The server sends the head and a part of the text at once, and the rest, with the hero, when it has put that together. */
export const bulletin: TruthPage = {
  name: 'bulletin',
  held: true,
  late: true,
  about: 'a document that its server sends in two parts',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 }],
  variants: [
    { name: 'sent at once', fixes: ['server-faster *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'script deferred', fixes: ['script-defer *'] },
    { name: 'hero smaller', fixes: [`image-resize ${WWW}/p/stalls.jpg`] },
    { name: 'at once, preloaded', fixes: ['server-faster *', 'hero-preload *'] },
  ],
  async files(): Promise<Files> {
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Bulletin</title>
<link rel="stylesheet" href="/css/bulletin.css"><script src="/js/count.js"></script></head>
<body>${HEAD}<main><h1>Bulletin</h1>${text(2, 60, 71)}<img src="/p/stalls.jpg" alt="Stalls" width="1000" height="800" style="width:100%;height:auto">${text(5, 60, 72)}</main></body></html>`,
          { waitMs: 90, pauses: [{ share: 0.35, ms: 900 }] },
        ),
      ],
      [`${WWW}/css/bulletin.css`, css(`${BASE_CSS}\n${idleRules(250, 'bul')}`)],
      [`${WWW}/js/count.js`, js(busy(25, 'count'))],
      [`${WWW}/p/stalls.jpg`, await photo('bulletin-stalls', 1400, 1120, 70)],
    ]);
  },
};
