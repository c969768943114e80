import { BASE_CSS, busy, css, figures, HEAD, js, MEDIA, names, page, photo, PAPER, text, WWW } from '../parts';
import type { FileSpec, Files, TruthPage } from '../site';

const url = `${WWW}/visit/`;
const entrance = 'http://fernhollow.example/visit/';
const hop = (location: string): FileSpec => ({
  type: 'text/html',
  status: 302,
  body: Buffer.alloc(0),
  headers: { location },
});

/** Redirects on the way in, to the hero and to a script. */
export const gate: TruthPage = {
  name: 'gate',
  held: false,
  about: 'redirects: the entrance, the hero, a script',
  url: entrance,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 },
    { name: 'fernhollow.example', protocol: 'h1', waitMs: 40 },
    { name: 'media.fernhollow.example', protocol: 'h1', waitMs: 30 },
  ],
  variants: [
    { name: 'hero without its redirect', fixes: [`redirect-skip ${WWW}/old/arch.jpg`] },
    { name: 'script without its redirect', fixes: [`redirect-skip ${WWW}/latest/table.js`] },
    { name: 'server faster', fixes: [`server-faster ${url} wait=60`] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    {
      name: 'three together',
      fixes: [
        `redirect-skip ${WWW}/old/arch.jpg`,
        `redirect-skip ${WWW}/latest/table.js`,
        `server-faster ${url} wait=60`,
      ],
    },
  ],
  async files(): Promise<Files> {
    const pictures = names('gatepost', 6);
    return new Map([
      [entrance, hop(url)],
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Visit</title>
<link rel="stylesheet" href="/css/site.css"><script src="/latest/table.js"></script></head>
<body>${HEAD}<div class="banner"><img src="/old/arch.jpg" alt="The arch" width="1000" height="800"></div>
<main><h1>Visit us</h1>${text(4, 60, 61)}${figures(pictures.map((n) => `${MEDIA}/p/${n}.jpg`))}</main></body></html>`,
          { waitMs: 480 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/latest/table.js`, hop(`${MEDIA}/js/table-5.js`)],
      [`${MEDIA}/js/table-5.js`, js(PAPER() + busy(15))],
      [`${WWW}/old/arch.jpg`, hop(`${MEDIA}/p/arch.jpg`)],
      [`${MEDIA}/p/arch.jpg`, await photo('visit-arch', 1000, 800, 64)],
      ...(await Promise.all(pictures.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
