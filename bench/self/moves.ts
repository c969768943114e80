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
/** From reaching a link to pressing the button, in ms: less than people take. */
const RESTS_MS = 150;
const ROUNDS = 5;
const TOGGLES = 60;

/** From the press of the button to the content, in ms: of every move between screens that was made with the pointer. */
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
      const [name, content] = move;
      const link = page.locator('.rail a').filter({ hasText: new RegExp(`^${name}`) });
      await link.hover();
      await page.waitForTimeout(RESTS_MS);
      await page.evaluate(awaitMove, content);
      await page.mouse.down();
      await page.mouse.up();
      times.push(await page.evaluate(() => (window as unknown as Moved).arrived));
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

/** Where the page keeps the time of a move. */
interface Moved {
  arrived: Promise<number>;
}

/** Runs in the page: measures from the next press on a link until the content that it leads to is drawn. */
function awaitMove(content: string): void {
  const old = document.querySelector('main');
  (window as unknown as Moved).arrived = new Promise((done) => {
    document.addEventListener(
      'mousedown',
      ({ timeStamp }) => {
        const look = () => {
          const now = document.querySelector('main');
          if (now !== old && document.querySelector(content)) done(performance.now() - timeStamp);
          else requestAnimationFrame(look);
        };
        requestAnimationFrame(look);
      },
      { once: true, capture: true },
    );
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
