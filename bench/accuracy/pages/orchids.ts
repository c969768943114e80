import { BASE_CSS, css, figures, HEAD, js, JQUERY, MEDIA, names, page, photo, text, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/orchids/`;

/** A long page with more than a hundred pictures of a six-connection host; the hero comes first. */
export const orchids: TruthPage = {
  name: 'orchids',
  held: false,
  about: '112 pictures of an HTTP/1.1 host',
  url,
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 30 },
    { name: 'media.fernhollow.example', protocol: 'h1', waitMs: 20 },
  ],
  variants: [
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'hero urgent', fixes: ['hero-priority *'] },
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'hero re-encoded', fixes: [`image-resize ${MEDIA}/p/house.jpg`] },
    { name: 'lazy and urgent', fixes: ['offscreen-lazy *', 'hero-priority *'] },
  ],
  async files(): Promise<Files> {
    const small = names('orchid', 16);
    const list = Array.from({ length: 112 }, (_, i) => `${MEDIA}/p/${small[i % 16]}.jpg?n=${i}`);
    const pictures = new Map(await Promise.all(small.map(async (n) => [n, await photo(n, 240, 180, 52)] as const)));
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Orchids</title>
<link rel="stylesheet" href="/css/site.css"><script src="/js/jquery.js"></script></head>
<body>${HEAD}<div class="banner"><img src="${MEDIA}/p/house.jpg" alt="Orchid house" width="1300" height="1040"></div>
<main><h1>Orchids</h1>${text(1)}${figures(list, 'width="240" height="180"')}</main></body></html>`,
          { waitMs: 80 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [`${MEDIA}/p/house.jpg`, await photo('orchid-house', 1300, 1040, 66)],
      ...list.map(
        (u, i) => [u, pictures.get(small[i % 16] as string)] as [string, NonNullable<ReturnType<typeof pictures.get>>],
      ),
    ]);
  },
};
