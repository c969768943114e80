import fs from 'node:fs';
import type { Browser, Page } from 'playwright-core';

/** What was done on a screen, and how long until it was drawn, in ms. */
export interface Step {
  readonly screen: string;
  readonly what: string;
  readonly ms: number;
  readonly wantedMs: number;
}

/** What a person does on a list: where to click, and where to look for what changes. */
interface Deed {
  readonly what: string;
  readonly click: string;
  /** Chosen in what is clicked. */
  readonly choose?: string;
  readonly look: string;
}

interface ListScreen {
  readonly name: string;
  readonly path: string;
  readonly rows: string;
  readonly deeds: readonly Deed[];
}

const PAGES = '.page-table [role="rowgroup"]';
const FILES = 'table.files tbody';

/** Lists with what narrows, sorts and groups them; a deed begins where the one before it has ended. */
const LISTS: readonly ListScreen[] = [
  {
    name: 'Pages',
    path: '/pages?view=all',
    rows: `${PAGES} .row`,
    deeds: [
      { what: 'sort', click: '.page-table .head button >> nth=1', look: PAGES },
      { what: 'filter', click: '.flags .chip >> nth=0', look: PAGES },
      { what: 'clear filters', click: '.chosen .link', look: PAGES },
      { what: 'group', click: 'select[name="group"]', choose: 'template', look: 'main' },
    ],
  },
  {
    name: 'Files',
    path: '/files',
    rows: `${FILES} tr`,
    deeds: [
      { what: 'sort', click: 'table.files th [role="button"] >> nth=0', look: FILES },
      { what: 'filter', click: 'text="more than needed"', look: FILES },
      { what: 'clear filters', click: 'text="Clear filters"', look: FILES },
      { what: 'group by host', click: 'main .tools [role="button"] >> text="host"', look: 'main' },
      { what: 'group by page', click: 'main .tools [role="button"] >> text="page"', look: 'main' },
    ],
  },
];

const WANTED_MS = 300;

/** Goes through the long lists as a person does. */
export async function walkLists(browser: Browser, site: string): Promise<Step[]> {
  const out: Step[] = [];
  for (const { name, path, rows, deeds } of LISTS) {
    const page = await openPage(browser);
    // The first look may find the server's memory empty; a list is looked at more than once.
    for (const what of ['first rows', 'first rows again']) {
      await page.goto(site + path, { waitUntil: 'commit' });
      await page.locator(rows).first().waitFor();
      out.push({ screen: name, what, ms: await painted(page), wantedMs: WANTED_MS });
    }
    await awake(page);
    for (const { what, click, choose, look } of deeds) {
      const button = page.locator(click).first();
      await button.waitFor();
      const ms = await button.evaluate(clicked, [look, choose ?? ''] as const);
      out.push({ screen: name, what, ms, wantedMs: WANTED_MS });
      await page.evaluate(() => new Promise((done) => requestIdleCallback(done, { timeout: 1000 })));
    }
    await page.close();
  }
  return out;
}

/** Frames of a fast scroll, a screenful in about six, in which the middle of the list showed no row, and all frames. */
export async function scrollPages(
  browser: Browser,
  site: string,
): Promise<{ frames: number; blank: number; empty: number }> {
  const page = await openPage(browser);
  await page.goto(`${site}/pages?view=all`);
  await page.locator(`${PAGES} .row`).first().waitFor();
  await awake(page);
  const counts = await page.evaluate(scrolled, 400);
  await page.close();
  return counts;
}

/** Memory of the tab that shows a screen, MiB: what is the process's own (Linux, proportional set size). */
export async function tabMemory(browser: Browser, address: string): Promise<number> {
  const page = await openPage(browser);
  await page.goto(address);
  await awake(page);
  await page.evaluate(() => new Promise((done) => setTimeout(done, 1500)));
  const session = await browser.newBrowserCDPSession();
  const { processInfo } = await session.send('SystemInfo.getProcessInfo');
  const sizes = processInfo.filter((p) => p.type === 'renderer').map((p) => ownMemory(p.id));
  await session.detach();
  await page.close();
  return Math.max(...sizes);
}

function ownMemory(pid: number): number {
  const text = fs.readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8');
  return Number(/^Pss:\s+(\d+)/m.exec(text)?.[1] ?? 0) / 1024;
}

async function openPage(browser: Browser): Promise<Page> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // The compiler that runs this file names functions by a helper that the page does not have.
  await page.addInitScript('globalThis.__name = (f) => f');
  page.setDefaultTimeout(120_000);
  return page;
}

const awake = (page: Page) =>
  page.waitForFunction(() => !document.querySelector('astro-island[client="load"]:not([data-awake])'));

/** First contentful paint of the page that stands there, ms since its navigation. */
const painted = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise<number>((done) => {
        const look = () => {
          const [fcp] = performance.getEntriesByName('first-contentful-paint');
          if (fcp) done(fcp.startTime);
          else requestAnimationFrame(look);
        };
        look();
      }),
  );

/** Runs in the page: clicks, and waits until what is looked at has changed and is no longer stale. */
function clicked(button: Element, [look, choose]: readonly [string, string]): Promise<number> {
  const text = () => document.querySelector(look)?.textContent ?? '';
  const before = text();
  const start = performance.now();
  if (button instanceof HTMLSelectElement) {
    // React listens to what the browser's own setter sets.
    Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value')?.set?.call(button, choose);
    button.dispatchEvent(new Event('change', { bubbles: true }));
  } else (button as HTMLElement).click();
  return new Promise((done) => {
    const check = () => {
      const now = text();
      if (now !== before && !now.includes('…') && !document.querySelector('.stale')) done(performance.now() - start);
      else if (performance.now() - start > 30_000) done(Infinity);
      else requestAnimationFrame(check);
    };
    requestAnimationFrame(check);
  });
}

/** Runs in the page: scrolls the list by so many steps of 100 px, a frame each, and looks at its middle each time. */
async function scrolled(steps: number): Promise<{ frames: number; blank: number; empty: number }> {
  const list = document.querySelector<HTMLElement>('.page-table')!;
  const box = list.getBoundingClientRect();
  let [blank, empty] = [0, 0];
  const frame = () => new Promise((done) => requestAnimationFrame(done));
  for (let i = 1; i <= steps; i++) {
    list.scrollTop = 100 * i;
    await frame();
    const row = document.elementFromPoint(box.left + 40, box.top + box.height / 2)?.closest('.row');
    if (!row) blank++;
    else if (row.textContent?.trim() === '…') empty++;
  }
  return { frames: steps, blank, empty };
}
