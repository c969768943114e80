import { COUNT, MEDIA, TICKETS, WWW } from './hosts';

/** One page of Fernhollow Botanic Garden. */
export interface DemoPage {
  readonly path: string;
  readonly title: string;
  readonly host: 'www' | 'tickets';
  readonly html: string;
}

const NAV = [
  ['/glasshouse/', 'Glasshouse'],
  ['/seasons/', 'Seasons'],
  ['/plant-sale/', 'Plant sale'],
  ['/talks/', 'Talks'],
  ['/membership/', 'Membership'],
  ['/visit/', 'Visit'],
] as const;

const HEAD_FAULTY = `  <link rel="stylesheet" href="/css/frame.css">
  <link rel="stylesheet" href="/css/site.css">
  <link rel="stylesheet" href="/css/print.css" media="print">
  <script src="/js/kit.js"></script>
  <script src="/js/menu.js"></script>
  <script src="${COUNT}/count.js"></script>`;

function header(drawer: boolean): string {
  const links = NAV.map(([href, name]) => `<a href="${href}">${name}</a>`).join('\n      ');
  const menu = drawer
    ? `\n  <div class="drawer">\n${NAV.map(([href, name], i) => `    <a href="${href}"><img src="${MEDIA}/p/menu-${i + 1}.jpg" alt="${name}" width="180" height="120"></a>`).join('\n')}\n  </div>`
    : '';
  return `<header class="site-head">
    <img src="/i/logo.svg" alt="" width="40" height="40">
    <span class="brand">Fernhollow Botanic Garden</span>
    <nav>
      ${links}
    </nav>
  </header>${menu}`;
}

const FOOTER = `<footer class="site-foot">
    <p>Fernhollow Botanic Garden, Lower Lane, Fernhollow. Open every day but the first Monday of <span class="season">the season</span>.</p>
    <p><a href="http://www.fernhollow.example/visit/">How to find us</a> · <a href="http://tickets.fernhollow.example/book/">Tickets</a> · <a href="http://growers.mossbank.example/">Our friends at Mossbank Growers</a></p>
  </footer>`;

/** What differs from page to page. */
export interface PageParts {
  readonly path: string;
  readonly title: string;
  readonly main: string;
  readonly head?: string;
  readonly foot?: string;
  readonly drawer?: boolean;
  readonly host?: 'www' | 'tickets';
  readonly before?: string;
  readonly canonical?: string;
}

/** A page in the garden's frame. */
export function page(p: PageParts): DemoPage {
  const canonical = p.canonical ?? `${p.host === 'tickets' ? TICKETS : WWW}${p.path}`;
  return {
    path: p.path,
    title: p.title,
    host: p.host ?? 'www',
    html: `<!doctype html>
<html lang="en">
<head>
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width, initial-scale=1">
  <title>${p.title} - Fernhollow Botanic Garden</title>
  <link rel="canonical" href="${canonical}">
  <link rel="icon" href="/i/logo.svg">
${p.head ?? HEAD_FAULTY}
</head>
<body>
  ${header(p.drawer ?? true)}
${p.before ?? ''}  <main>
${p.main}
  </main>
  ${FOOTER}
${p.foot ?? '  <script src="/js/frame.js"></script>\n  <script src="/js/sign.js"></script>'}
</body>
</html>
`,
  };
}

const PARAGRAPHS = [
  'The garden was laid out on the slope above the mill stream, where the soil stays cool and the mist lingers until ten. Paths follow the old terraces, so that every turn shows another planting.',
  'Our growers raise most of the plants from seed gathered here. What does well in the long border goes to the nursery, and what sulks is tried again two terraces lower.',
  'On still mornings the bell by the pond carries as far as the lane. Visitors are asked to keep to the paths until the dew has dried, and to leave the gate as they found it.',
  "Guided walks start from the potting shed. They take about an hour, with a stop at the fern bank, where thirty kinds grow within an arm's length of one another.",
];

/** Paragraphs of made-up text. */
export const prose = (from: number, count: number) =>
  Array.from({ length: count }, (_, i) => `    <p>${PARAGRAPHS[(from + i) % PARAGRAPHS.length]}</p>`).join('\n');

const gallery = (prefix: string, count: number, caption: string, extra = '') =>
  `    <div class="grid">\n${Array.from({ length: count }, (_, i) => `      <figure><img src="${MEDIA}/p/${prefix}-${i + 1}.jpg" alt="${caption} ${i + 1}"${extra}><figcaption>${caption} ${i + 1}</figcaption></figure>`).join('\n')}\n    </div>`;

const LATER_FOOT =
  '  <script src="/js/frame.js"></script>\n  <script src="/js/sign.js"></script>\n  <script src="/js/later.js"></script>';

/** All pages; faults are planted on purpose and listed in docs/demo.md. */
export const PAGES: readonly DemoPage[] = [
  page({
    path: '/',
    title: 'Welcome',
    before:
      '  <div class="banner home-banner"><div class="over"><strong>The long border in its best week</strong></div></div>\n',
    main: `    <h1>A garden for every season</h1>\n${prose(0, 2)}
    <h2>In flower now</h2>
    <div class="grid">
      <figure><img src="http://media.fernhollow.example/p/leaf-1.jpg" alt="Hart's tongue"><figcaption>Hart's tongue</figcaption></figure>
${[2, 3, 4, 5, 6, 7, 8].map((i) => `      <figure><img src="${MEDIA}/p/leaf-${i}.jpg" alt="Border plant ${i}"><figcaption>Border plant ${i}</figcaption></figure>`).join('\n')}
    </div>
${prose(2, 2)}`,
  }),
  page({
    path: '/glasshouse/',
    title: 'The glasshouse',
    before: `  <div class="banner">
    <img src="/p/blank.gif" data-full="${MEDIA}/p/glasshouse-dawn.jpg" class="later" alt="The glasshouse at dawn">
  </div>\n`,
    main: `    <h1>The glasshouse</h1>\n${prose(1, 2)}\n    <h2>Orchids on the staging</h2>\n${gallery('orchid', 14, 'Orchid')}\n${prose(3, 2)}`,
    foot: LATER_FOOT,
  }),
  page({
    path: '/seasons/',
    title: 'The seasons',
    before: `  <div class="banner" id="carousel" data-slides='[{"src":"${MEDIA}/p/seasons-autumn.jpg","alt":"Autumn by the pond"},{"src":"${MEDIA}/p/home-border.jpg","alt":"The long border"}]'></div>\n`,
    main: `    <h1>The seasons</h1>\n${prose(2, 3)}\n${gallery('leaf', 6, 'Through the year')}\n    <div class="plaque">The sundial was set in the year of the great frost.</div>\n${prose(0, 2)}`,
    head: `${HEAD_FAULTY}\n  <link rel="stylesheet" href="/css/plaque.css">`,
    foot: '  <script src="/js/frame.js"></script>\n  <script src="/js/carousel.js"></script>',
  }),
  page({
    path: '/plant-sale/',
    title: 'Plant sale',
    canonical: 'http://www.fernhollow.example/plant-sale/',
    before: `  <div class="banner"><img src="${MEDIA}/p/plant-sale-tables.jpg" loading="lazy" alt="Tables set out for the plant sale"></div>\n`,
    main: `    <h1>Plant sale</h1>\n${prose(3, 1)}\n    <h2>What is on the tables</h2>\n${gallery('seedling', 16, 'Seedling tray')}\n${prose(1, 2)}`,
  }),
  page({
    path: '/talks/',
    title: 'Talks',
    main: `    <h1>Talks in the lecture room</h1>
    <p class="note">Talks begin at seven in the evening, last about an hour and end with tea. Bring a plant that puzzles you and somebody will know its name; bring a name that puzzles you and somebody will know the plant.</p>
    <script src="http://maps.lanefinder.example/lanes.js"></script>
    <h2>This term</h2>
    <ul>
${['The moss under the bridge', 'Seeds that wait a century', 'Pruning without regret', 'What the pond remembers', 'Grafting for the patient'].map((t, i) => `      <li><strong>${t}</strong>, ${['first', 'second', 'third', 'fourth', 'fifth'][i]} Thursday</li>`).join('\n')}
    </ul>
    <img src="${MEDIA}/p/lecture-room.jpg" alt="The lecture room" width="320" height="210">
${prose(0, 4)}`,
  }),
  page({
    path: '/visit/',
    title: 'Visit',
    head: `${HEAD_FAULTY}\n  <link rel="stylesheet" href="http://maps.lanefinder.example/css/plaque.css">`,
    before: `  <div class="banner"><img src="${MEDIA}/p/visit-gate.jpg" alt="The garden gate"></div>\n`,
    main: `    <h1>Visit</h1>\n${prose(2, 2)}
    <iframe src="http://maps.lanefinder.example/widget/" title="Map" width="320" height="200"></iframe>
    <div id="map" class="note">Map</div>
    <form action="http://www.fernhollow.example/find/"><label>Find a plant <input name="q"></label> <button>Find</button></form>
${prose(0, 2)}`,
  }),
  page({
    path: '/membership/',
    title: 'Membership',
    head: `  <link rel="stylesheet" href="/css/clean.css">
  <link rel="preload" href="/fonts/garden-serif.woff2" as="font" type="font/woff2" crossorigin>
  <script src="/js/sign.js" defer></script>`,
    drawer: false,
    before: `  <div class="banner"><img src="/p/membership-walk-800.jpg" srcset="/p/membership-walk-800.jpg 800w, /p/membership-walk-1050.jpg 1050w, /p/membership-walk-1400.jpg 1400w" sizes="100vw" fetchpriority="high" width="1400" height="840" alt="Members on the evening walk"></div>\n`,
    main: `    <h1>Membership</h1>\n${prose(1, 3)}\n${gallery('leaf', 4, "Members' corner", ' loading="lazy" width="210" height="150"')}`,
    foot: '',
  }),
  page({
    path: '/book/',
    title: 'Tickets',
    host: 'tickets',
    head: `  <link rel="stylesheet" href="/css/frame.css">\n  <link rel="stylesheet" href="/css/site.css">\n  <script src="/js/kit.js"></script>`,
    drawer: false,
    main: `    <h1>Book a ticket</h1>\n    <p class="note">Tickets are for a day, not for an hour: come when the weather suits you. Members walk in with their card; children under twelve come free with anybody who holds a ticket.</p>\n    <img src="/old/lecture-room.jpg" alt="The ticket desk" width="320" height="210">\n${prose(3, 3)}`,
    foot: '  <script src="/js/sign.js"></script>',
  }),
];
