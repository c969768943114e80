import {
  BASE_CSS,
  busy,
  css,
  figures,
  HEAD,
  idleRules,
  js,
  JQUERY,
  MEDIA,
  names,
  page,
  photo,
  text,
  words,
  WWW,
} from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/film/`;
const MAPS = 'https://maps.lanefinder.example';

/** The poster of a film is the hero, with a frame of another host; on a wide screen. */
export const film: TruthPage = {
  name: 'film',
  held: true,
  about: 'poster as hero, a foreign frame, wide screen',
  url,
  screen: 'desktop',
  hosts: [
    { name: 'www.fernhollow.example', protocol: 'h2', order: 'urgency', waitMs: 40 },
    { name: 'media.fernhollow.example', protocol: 'h1', waitMs: 25 },
    { name: 'maps.lanefinder.example', protocol: 'h2', order: 'fair', waitMs: 120 },
  ],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'pictures lazy', fixes: ['offscreen-lazy *'] },
    { name: 'sheet later', fixes: [`style-nonblocking ${WWW}/css/film.css`] },
    { name: 'script deferred', fixes: ['script-defer *'] },
    { name: 'preloaded, deferred, lazy', fixes: ['hero-preload *', 'script-defer *', 'offscreen-lazy *'] },
  ],
  async files(): Promise<Files> {
    const pictures = names('still', 16);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Film</title>
<link rel="stylesheet" href="/css/site.css"><link rel="stylesheet" href="/css/film.css"><script src="/js/jquery.js"></script></head>
<body>${HEAD}<main>${figures(pictures.slice(0, 4).map((n) => `${MEDIA}/p/${n}.jpg`))}<video poster="${MEDIA}/p/premiere.jpg" width="1000" height="480" preload="none" controls></video>
<h1>Film</h1>${text(3, 60, 141)}<iframe src="${MAPS}/map/" width="600" height="300" title="Map"></iframe>${text(9, 120, 142)}${figures(pictures.slice(4).map((n) => `${MEDIA}/p/${n}.jpg`))}</main></body></html>`,
          { waitMs: 80 },
        ),
      ],
      [`${WWW}/css/site.css`, css(BASE_CSS)],
      [`${WWW}/css/film.css`, css(`video{display:block;background:#222}${idleRules(300, 'film')}`)],
      [`${WWW}/js/jquery.js`, js(JQUERY())],
      [
        `${MAPS}/map/`,
        page(`<!doctype html><title>Map</title><p>Map of the lanes</p><script src="/tiles.js"></script>`),
      ],
      [`${MAPS}/tiles.js`, js(`${busy(12, 'tiles')}/*${words(4000, 143)}*/`)],
      [`${MEDIA}/p/premiere.jpg`, await photo('film-premiere', 1000, 480, 70)],
      ...(await Promise.all(pictures.map(async (n) => [`${MEDIA}/p/${n}.jpg`, await photo(n, 480, 360, 60)] as const))),
    ]);
  },
};
