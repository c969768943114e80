import { asItWas } from './before';
import { MEDIA, TICKETS } from './hosts';
import type { DemoPage } from './pages';

/** Days on which the garden was swept in the year before, the oldest first. */
export const MONTHS = [
  '2025-12-04',
  '2026-01-08',
  '2026-02-05',
  '2026-03-05',
  '2026-04-02',
  '2026-05-07',
  '2026-06-04',
  '2026-07-02',
  '2026-08-06',
  '2026-09-03',
  '2026-10-01',
] as const;
export type Month = (typeof MONTHS)[number];

/** Pages that were recorded each month: a year in small. */
const MONTHLY = ['/', '/plant-sale/', '/membership/'];
/** The last day of the year, on which a plan was made, has two more. */
const LAST: Month = '2026-10-01';
const PLANNED = ['/visit/', '/seasons/'];

/** Pages that were recorded on a day. */
export const pagesIn = (month: Month): readonly string[] => (month === LAST ? [...MONTHLY, ...PLANNED] : MONTHLY);

/** A change that came to stay on a day, and what stood there until then. */
interface Step {
  /** The first day on which it stood there; from the beginning if not stated. */
  readonly from?: Month;
  /** The first day on which it no longer did; that of the sweep in November if not stated. */
  readonly until?: Month;
  readonly pages: readonly string[];
  readonly edits: readonly (readonly [later: string, until: string])[];
}

/** Pages that have grown; that of members was made anew later and stayed as it was. */
const OLD = ['/', '/plant-sale/'];

const STEPS: readonly Step[] = [
  // The framework came minified until somebody wanted to read it.
  { until: '2026-03-05', pages: OLD, edits: [['/css/frame.css"', '/css/frame.min.css"']] },
  // The menu had no script yet.
  { until: '2026-02-05', pages: OLD, edits: [['  <script src="/js/menu.js"></script>\n', '']] },
  // The picture of the home page was announced in the head until the head was tidied up.
  {
    until: '2026-05-07',
    pages: ['/'],
    edits: [['</head>', `  <link rel="preload" as="image" href="${MEDIA}/p/home-border.jpg">\n</head>`]],
  },
  // Two scripts at the end of the page did not hold up its end yet.
  { until: '2026-09-03', pages: OLD, edits: [['<script src="/js/frame.js">', '<script src="/js/frame.js" defer>']] },
  // What a plan of October mends. The map comes by http: mended in November, and http again three weeks later. A large script
  // in the head goes; in the same weeks a library, which holds the page up as long, comes.
  {
    from: LAST,
    pages: ['/visit/'],
    edits: [
      ['"https://maps.lanefinder.example/widget/"', '"http://maps.lanefinder.example/widget/"'],
      ['<script src="/js/kit.js"></script>', '<script src="/js/atlas.js"></script>'],
    ],
  },
  // A script in the head goes, and two large ones of the shop, which nobody had planned, go with it.
  {
    from: LAST,
    pages: ['/seasons/'],
    edits: [
      [
        '  <script src="/js/menu.js"></script>',
        `  <script src="/js/menu.js"></script>\n  <script src="/js/tour.js"></script>\n  <script src="${TICKETS}/js/kit.js"></script>\n  <script src="${TICKETS}/js/atlas.js"></script>`,
      ],
    ],
  },
];

/** From here on the server, moved to another machine, sends the large text files as they are. */
export const COMPRESSED_UNTIL: Month = '2026-07-02';

/** A page of the garden as it was on one of the days of that year. @throws Error when a change is no longer in it */
export function asInMonth(page: DemoPage, month: Month): DemoPage {
  const steps = STEPS.filter(
    ({ from, until, pages }) =>
      (from === undefined || month >= from) && (until === undefined || month < until) && pages.includes(page.path),
  );
  const html = steps.reduce(
    (text, { edits }) =>
      edits.reduce((t, [later, until]) => {
        if (!t.includes(later)) throw new Error(`${page.path} has no ${later}`);
        return t.replace(later, until);
      }, text),
    asItWas(page).html,
  );
  return { ...page, html };
}
