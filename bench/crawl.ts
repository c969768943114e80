/** The part of `npm run bench` that sweeps the stand-in site and looks at its pages. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import fs from 'node:fs';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { fileURLToPath } from 'node:url';
import { chromium } from 'playwright-core';
import { findChromium } from '../src/engine/record/chromium';
import { SITE_PAGES } from './crawlParts';

const root = path.join(path.dirname(fileURLToPath(import.meta.url)), '..');

/** What the sweep of the enlarged stand-in site took. */
export interface CrawlFigures {
  readonly pages: number;
  readonly bareMs: number;
  readonly sweepMs: number;
  readonly finishMs: number;
  readonly pagesPerSecond: number;
  /** Resident memory after the first thousand pages, before the last thousand, and at its highest, in MB. */
  readonly firstMb: number;
  readonly lastMb: number;
  readonly highestMb: number;
  /** From the click on Pages to the first rows on the screen, median, in ms. */
  readonly rowsMs: number;
  readonly rowsServerMs: number;
}

/** Measures all of it, one thing after the other. */
export async function measureCrawl(): Promise<CrawlFigures> {
  const data = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-crawl-'));
  const site = spawn(
    process.execPath,
    ['--import', 'tsx', path.join(root, 'demo/site/serve.ts'), '--pages', String(SITE_PAGES)],
    { cwd: root },
  );
  try {
    await says(site, 'Stop with');
    // The site makes its pages when first asked: that is not to be measured.
    await child<{ ms: number }>('bare', data);
    const before = await child<{ ms: number }>('bare', data);
    const sweep = await child<Omit<CrawlFigures, 'bareMs' | 'rowsMs' | 'rowsServerMs' | 'pagesPerSecond'>>(
      'sweep',
      data,
    );
    // The bare loop once before and once after: machines are not equally fast all the time.
    const after = await child<{ ms: number }>('bare', data);
    const rows = await firstRows(data);
    return {
      ...sweep,
      bareMs: (before.ms + after.ms) / 2,
      pagesPerSecond: (sweep.pages * 1000) / (sweep.sweepMs + sweep.finishMs),
      ...rows,
    };
  } finally {
    site.kill();
    fs.rmSync(data, { recursive: true, force: true });
  }
}

/** The Pages table in a real browser, from the click to its first rows. */
async function firstRows(data: string): Promise<{ rowsMs: number; rowsServerMs: number }> {
  const port = await freePort();
  const server = spawn(process.execPath, [path.join(root, 'src/server/main.mjs')], {
    env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), KEEN_LENS_DATA: data, KEEN_LENS_ROOT: root },
    stdio: 'ignore',
  });
  const home = `http://127.0.0.1:${port}`;
  while (!(await fetch(`${home}/api/health`).catch(() => undefined))) await new Promise((done) => setTimeout(done, 50));
  const browser = await chromium.launch({
    executablePath: findChromium(),
    args: process.getuid?.() === 0 ? ['--no-sandbox'] : [],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const shown: number[] = [];
    for (let i = 0; i < 7; i++) {
      await page.goto(`${home}/sites/1`);
      await page.getByText('No page of this sweep has been recorded').first().waitFor();
      shown.push(
        await page.evaluate(
          () =>
            new Promise<number>((done) => {
              const from = performance.now();
              new MutationObserver(() => {
                if (!document.querySelector('.page-table .open')) return;
                // After the next frame the rows are on the screen.
                requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - from)));
              }).observe(document.body, { childList: true, subtree: true });
              document.querySelector<HTMLElement>('.rail a[href$="/pages"]')?.click();
            }),
        ),
      );
    }
    const asked: number[] = [];
    for (let i = 0; i < 7; i++) {
      const from = performance.now();
      await (await fetch(`${home}/api/sweeps/1/pages?sort=linksIn&descending=true&limit=200`)).text();
      asked.push(performance.now() - from);
    }
    return { rowsMs: middle(shown), rowsServerMs: middle(asked) };
  } finally {
    await browser.close();
    server.kill();
  }
}

const middle = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;

async function child<T>(what: 'bare' | 'sweep', data: string): Promise<T> {
  const started = spawn(process.execPath, ['--import', 'tsx', path.join(root, 'bench/crawlParts.ts'), what, data], {
    cwd: root,
  });
  const line = await says(started, '{');
  await once(started, 'exit');
  return JSON.parse(line) as T;
}

/** The first line of a process that holds a text. */
function says(started: ChildProcess, text: string): Promise<string> {
  return new Promise((done, fail) => {
    let out = '';
    let errors = '';
    started.stdout?.on('data', (d: Buffer) => {
      out += d.toString();
      const line = out.split('\n').find((l) => l.includes(text));
      if (line) done(line);
    });
    started.stderr?.on('data', (d: Buffer) => (errors += d.toString()));
    started.on(
      'exit',
      (code) => code !== 0 && fail(new Error(errors.slice(-2000) || `ended with ${code ?? 'a signal'}`)),
    );
  });
}

export function freePort(): Promise<number> {
  return new Promise((done) => {
    const probe = net.createServer();
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as net.AddressInfo;
      probe.close(() => done(port));
    });
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) console.log(await measureCrawl());
