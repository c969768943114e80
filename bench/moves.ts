/** The part of `npm run bench` that moves between the screens of the demo in a browser. */
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium } from 'playwright-core';
import { findChromium } from '../src/engine/record/chromium';
import { seedDemo } from '../src/engine/services/seedDemo';
import { openStore } from '../src/engine/store/store';
import { freePort } from './crawl';

const root = path.join(path.dirname(fileURLToPath(import.meta.url)), '..');
/** Links of the rail, with what is on the screen once its content is. */
const MOVES = [
  ['Pages', 'main tbody td.cost'],
  ['Hero', 'main .findings > li'],
  ['Bench and plans', 'main .target'],
  ['Checks and limits', 'main .checks-table tr'],
  ['Weight', 'main .findings > li'],
  ['Brief', 'main .stair'],
] as const;
const ROUNDS = 5;

/** From the click to the content, in ms: of every move that was made. */
export async function measureMoves(): Promise<number[]> {
  const data = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-moves-'));
  const store = await openStore(data);
  await seedDemo(store);
  await store.destroy();
  const port = await freePort();
  const server = spawn(process.execPath, [path.join(root, 'src/server/main.mjs')], {
    env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), KEEN_LENS_DATA: data, KEEN_LENS_ROOT: root },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  const base = `http://127.0.0.1:${port}`;
  while (!(await fetch(`${base}/api/health`).catch(() => undefined)))
    await new Promise((done) => setTimeout(done, 100));
  const browser = await chromium.launch({
    executablePath: findChromium(),
    args: process.getuid?.() === 0 ? ['--no-sandbox'] : [],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    // The compiler that runs this file names functions by a helper that the page does not have.
    await page.addInitScript('globalThis.__name = (f) => f');
    await page.goto(`${base}/sites/1`);
    await page.locator('main .stair').first().waitFor();
    const times: number[] = [];
    for (let round = 0; round < ROUNDS; round++)
      for (const move of MOVES) times.push(await page.evaluate(moved, move as unknown as [string, string]));
    return times;
  } finally {
    await browser.close();
    server.kill();
    fs.rmSync(data, { recursive: true, force: true });
  }
}

/** Runs in the page: clicks a link of the rail and waits until its content is drawn. */
function moved([name, content]: [string, string]): Promise<number> {
  const link = [...document.querySelectorAll<HTMLElement>('.rail a')].find((a) => a.textContent?.startsWith(name));
  const old = document.querySelector('main')?.firstElementChild;
  const start = performance.now();
  link?.click();
  return new Promise((done) => {
    const look = () => {
      const now = document.querySelector('main')?.firstElementChild;
      if (now !== old && document.querySelector(content)) done(performance.now() - start);
      else requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  });
}
