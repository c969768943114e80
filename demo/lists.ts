/** Made-up lists of the stand-in site, in the forms in which such lists come. */

/** A number between 0 and 1 that is always the same for the same text. */
function chance(text: string): number {
  let h = 2166136261;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 16777619);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

const DAY = 86_400_000;
/** The day on which the garden began to move to https. */
export const MOVING_DAY = '2026-10-20';

const PAGES: readonly (readonly [path: string, clicks: number, after: number])[] = [
  ['/', 2100, 0.97],
  ['/glasshouse/', 860, 1.02],
  ['/visit/', 1340, 0.98],
  ['/plant-sale/', 520, 0.9],
  ['/seasons/', 410, 1.04],
  ['/talks/', 190, 0.95],
  ['/membership/', 260, 1.0],
  ['/plants/', 640, 0.93],
  ['/whats-on/plant-sale-2025.html', 720, 0.21],
  ['/info/membership.html', 380, 0.18],
  ['/opening-hours.php', 900, 0.34],
  ['/shop/seeds/', 150, 0.12],
];

const decimal = (n: number, digits: number) => n.toFixed(digits).replace('.', ',');
const thousands = (n: number) => Math.round(n).toLocaleString('de-DE');

/** Search performance of four weeks: pages with European numbers and semicolons, one host form before and one after. */
export function performance(period: 'before' | 'after'): string {
  const rows = PAGES.map(([path, clicks, factor]) => {
    const seen = clicks * (period === 'before' ? 1 : factor) * (0.96 + 0.08 * chance(period + path));
    const impressions = seen * (14 + 10 * chance(path));
    const position = 3 + 9 * chance(`p${path}`) + (period === 'after' && factor < 0.5 ? 11 : 0);
    const host = period === 'before' ? 'http://www.fernhollow.example' : 'https://www.fernhollow.example';
    return `${host}${path};${thousands(seen)};${thousands(impressions)};${decimal((100 * seen) / impressions, 2)} %;${decimal(position, 1)}`;
  });
  return `Page;Clicks;Impressions;CTR;Position\n${rows.join('\n')}\n`;
}

/** Clicks and impressions of each day of both periods. */
export function days(): string {
  const start = Date.parse(MOVING_DAY) - 28 * DAY;
  const rows = Array.from({ length: 56 }, (_, i) => {
    const at = new Date(start + i * DAY);
    const weekend = [0, 6].includes(at.getUTCDay()) ? 1.5 : 0.85;
    const moved = i < 28 ? 1 : Math.min(0.86, 0.58 + (i - 28) * 0.012);
    const clicks = 300 * weekend * moved * (0.94 + 0.12 * chance(String(i)));
    return `${at.toISOString().slice(0, 10)},${Math.round(clicks)},${Math.round(clicks * 17)},7.4`;
  });
  return `Date,Clicks,Impressions,Position\n${rows.join('\n')}\n`;
}

/** What a search tool says of the index. */
export const INDEX_STATE = `URL\tState\tLast crawled
http://www.fernhollow.example/\tPage with redirect\t2026-11-02
http://fernhollow.example/visit/\tPage with redirect\t2026-10-29
http://www.fernhollow.example/opening-hours.php\tNot found (404)\t2026-11-11
https://www.fernhollow.example/whats-on/plant-sale-2025.html\tNot found (404)\t2026-11-12
https://fernhollow.example/talks/\tPage with redirect\t2026-11-08
https://www.fernhollow.example/glasshouse/\tIndexed\t2026-11-20
https://www.fernhollow.example/seasons/\tIndexed\t2026-11-19
http://archive.fernhollow.example/\tIndexed\t2026-09-30
https://shop.fernhollow.example/\tServer error\t2026-11-15
http://old.fernhollow.example/\tPage with redirect\t2026-10-03
https://petalmetrics.example/fernhollow\tIndexed\t2026-11-01
`;

/** The sitemap from before the move. */
export const OLD_SITEMAP = `<?xml version="1.0" encoding="UTF-8"?>
<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">
${[
  '/',
  '/glasshouse/',
  '/visit/',
  '/seasons/',
  '/talks/',
  '/plant-sale/',
  '/membership/',
  '/plants/tree-fern.html',
  '/plants/moss-garden.html',
  '/opening-hours.php',
  '/shop/seeds/',
  '/plants/',
]
  .map((p) => `  <url><loc>http://www.fernhollow.example${p}</loc></url>`)
  .join('\n')}
</urlset>
`;
