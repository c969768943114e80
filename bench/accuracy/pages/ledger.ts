import { BASE_CSS, busy, css, HEAD, idleRules, js, JQUERY, page, words, WWW } from '../parts';
import type { Files, TruthPage } from '../site';

const url = `${WWW}/ledger/`;
const ROWS = 5200;

/** A very long document: thousands of rows, scripts in the head. */
export const ledger: TruthPage = {
  name: 'ledger',
  held: true,
  late: true,
  about: 'nine hundred kilobytes of markup, scripts in the head',
  url,
  hosts: [{ name: 'www.fernhollow.example', protocol: 'h2', order: 'fair', waitMs: 40 }],
  variants: [
    { name: 'scripts deferred', fixes: ['script-defer *'] },
    { name: 'sheet later', fixes: [`style-nonblocking ${WWW}/css/rows.css`] },
    { name: 'one script async', fixes: [`script-async ${WWW}/js/sort.js`] },
    { name: 'sheet smaller', fixes: [`style-remove-unused ${WWW}/css/rows.css`] },
    { name: 'deferred and sheet later', fixes: ['script-defer *', `style-nonblocking ${WWW}/css/rows.css`] },
  ],
  files(): Promise<Files> {
    const rows = Array.from(
      { length: ROWS },
      (_, i) =>
        `<tr class="row${i % 2 ? ' odd' : ''}"><td class="no">${i + 1}</td><td><a href="/plant/${i}/">${words(2, i)}</a></td><td>${words(6, i + 9000)}</td><td class="bed">Bed ${i % 88}</td></tr>`,
    ).join('\n');
    return Promise.resolve(
      new Map([
        [
          url,
          page(
            `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Ledger</title>
<link rel="stylesheet" href="/css/site.css"><link rel="stylesheet" href="/css/rows.css"><script src="/js/jquery.js"></script><script src="/js/sort.js"></script></head>
<body>${HEAD}<main><h1>Every plant of the garden, bed by bed</h1><p>${words(40, 77)}</p><table>${rows}</table></main></body></html>`,
            { waitMs: 120 },
          ),
        ],
        [`${WWW}/css/site.css`, css(BASE_CSS)],
        [
          `${WWW}/css/rows.css`,
          css(`table{border-collapse:collapse}td{padding:3px 8px;border-bottom:1px solid #ccc}.odd td{background:#efeade}.no{text-align:right}
${idleRules(500, 'led', 3)}`),
        ],
        [`${WWW}/js/jquery.js`, js(JQUERY())],
        [`${WWW}/js/sort.js`, js(`${busy(30, 'sort')}/*${words(2500, 6)}*/`)],
      ]),
    );
  },
};
