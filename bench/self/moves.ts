import type { DemoServer } from './demoServer';

/** Links of the rail, with what is on the screen once its content is. */
const MOVES = [
  ['Pages', 'main .page-table .row'],
  ['Hero', 'main .findings > li'],
  ['Bench and plans', 'main .target'],
  ['Checks and limits', 'main .checks-table tr'],
  ['Weight', 'main .findings > li'],
  ['Brief', 'main .stair'],
] as const;
const ROUNDS = 5;
const TOGGLES = 60;

/** From the click to the content, in ms: of every move between screens that was made. */
export async function measureMoves({ base, browser }: DemoServer): Promise<number[]> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // The compiler that runs this file names functions by a helper that the page does not have.
  await page.addInitScript('globalThis.__name = (f) => f');
  await page.goto(`${base}/sites/1`);
  const awake = () =>
    page.waitForFunction(() => !document.querySelector('astro-island[client="load"]:not([data-awake])'));
  await awake();
  const times: number[] = [];
  for (let round = 0; round < ROUNDS; round++)
    for (const move of MOVES) {
      times.push(await page.evaluate(moved, move as unknown as [string, string]));
      await awake();
    }
  await page.close();
  return times;
}

/** From the click on a fix to the new figure of the bench, in ms: of every toggle that was made. */
export async function measureToggles({ base, browser }: DemoServer): Promise<number[]> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript('globalThis.__name = (f) => f');
  await page.goto(`${base}/sites/1`);
  await page.waitForFunction(() => !document.querySelector('astro-island[client="load"]:not([data-awake])'));
  await page.evaluate(() => new Promise((done) => requestIdleCallback(done, { timeout: 5000 })));
  const times: number[] = [];
  for (let i = 0; i < TOGGLES; i++) times.push(await page.evaluate(toggled, i % 5));
  await page.close();
  return times;
}

/** Runs in the page: clicks a link of the rail and waits until its content is drawn. */
function moved([name, content]: [string, string]): Promise<number> {
  const link = [...document.querySelectorAll<HTMLElement>('.rail a')].find((a) => a.textContent?.startsWith(name));
  const old = document.querySelector('main');
  const start = performance.now();
  link?.click();
  return new Promise((done) => {
    const look = () => {
      const now = document.querySelector('main');
      if (now !== old && document.querySelector(content)) done(performance.now() - start);
      else requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  });
}

/** Runs in the page: puts a fix on the bench, or takes it off, and waits until the hero paint of the bench has changed. */
function toggled(n: number): Promise<number> {
  const button = document.querySelectorAll<HTMLElement>('main .put')[n];
  const figure = () => document.querySelector('.bench-bar')?.textContent;
  const before = figure();
  const start = performance.now();
  button?.click();
  return new Promise((done) => {
    const look = () => {
      if (figure() !== before) done(performance.now() - start);
      else requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  });
}
