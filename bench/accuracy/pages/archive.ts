import { BASE_CSS, busy, css, figures, HEAD, idleRules, js, names, page, photo, text, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/archive/`;

/** Many small styles and scripts of one HTTP/1.1 host. */
export const archive: TruthPage = {
  name: 'archive',
  held: false,
  about: 'one HTTP/1.1 host, eight styles and ten scripts in the head',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h1', waitMs: 35 }],
  variants: [
    { name: 'hero preloaded', fixes: ['hero-preload *'] },
    { name: 'scripts deferred', fixes: ['script-defer *'] },
    {
      name: 'sheets later',
      fixes: names('part', 8)
        .slice(2)
        .map((n) => `style-nonblocking ${WWW}/css/${n}.css`),
    },
    { name: 'pictures re-encoded', fixes: ['image-resize *'] },
    {
      name: 'deferred and later',
      fixes: [
        'script-defer *',
        ...names('part', 8)
          .slice(2)
          .map((n) => `style-nonblocking ${WWW}/css/${n}.css`),
      ],
    },
  ],
  async files(): Promise<Files> {
    const styles = names('part', 8);
    const scripts = names('tool', 10);
    const pictures = names('shelf', 8);
    return new Map([
      [
        url,
        page(
          `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Archive</title>
${styles.map((n) => `<link rel="stylesheet" href="/css/${n}.css">`).join('\n')}
${scripts.map((n) => `<script src="/js/${n}.js"></script>`).join('\n')}</head>
<body>${HEAD}<main><h1>Archive</h1>${text(1, 40, 121)}</main><div class="banner"><img src="/p/archive.jpg" alt="The archive" width="1400" height="1120"></div>
<main>${figures(
            pictures.map((n) => `/p/${n}.jpg`),
            'width="700" height="525"',
          )}${text(4, 60, 122)}</main></body></html>`,
          { waitMs: 90 },
        ),
      ],
      ...styles.map(
        (n, i) => [`${WWW}/css/${n}.css`, css((i === 0 ? BASE_CSS : '') + idleRules(60 + i * 12, n, i))] as const,
      ),
      ...scripts.map(
        (n, i) =>
          [`${WWW}/js/${n}.js`, js(busy(2 + i, n.replace('-', '')) + `/*${words(500 + 200 * i, 130 + i)}*/`)] as const,
      ),
      [`${WWW}/p/archive.jpg`, await photo('archive-shelves', 1400, 1120, 64)],
      ...(await Promise.all(pictures.map(async (n) => [`${WWW}/p/${n}.jpg`, await photo(n, 700, 525, 62)] as const))),
    ]);
  },
};
