/** Makes docs/screenshots from the demo: `npm run screenshots` (which builds first; starts a server of its own). */
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from 'playwright-core';
import { PICTURE_CACHE, serveDemo } from '../demo/site/serve';
import { findChromium } from '../src/engine/record/chromium';
import { seedDemo } from '../src/engine/services/seedDemo';
import { openStore } from '../src/engine/store/store';

const root = path.join(path.dirname(fileURLToPath(import.meta.url)), '..');
const out = path.join(root, 'docs/screenshots');
const data = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-shots-'));
const port = 4299;
const base = `http://127.0.0.1:${port}`;

const store = await openStore(data);
await seedDemo(store);
await store.destroy();
const server = spawn(process.execPath, [path.join(root, 'src/server/main.mjs')], {
  env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), KEEN_LENS_DATA: data, KEEN_LENS_ROOT: root },
  stdio: ['ignore', 'ignore', 'inherit'],
});
while (!(await fetch(`${base}/api/health`).catch(() => undefined))) await new Promise((done) => setTimeout(done, 100));
const browser = await chromium.launch({
  executablePath: findChromium(),
  args: process.getuid?.() === 0 ? ['--no-sandbox'] : [],
});

async function shot(
  name: string,
  to: string,
  prepare: (page: Page) => Promise<unknown>,
  scheme: 'light' | 'dark' = 'light',
  width = 1280,
) {
  const context = await browser.newContext({ viewport: { width, height: 800 }, colorScheme: scheme });
  const page = await context.newPage();
  page.setDefaultTimeout(15_000);
  await page.goto(base + to);
  await prepare(page);
  await page.mouse.move(0, 0);
  await page.evaluate(() => document.fonts.ready.then(() => undefined));
  await page.screenshot({ path: path.join(out, `${name}.png`) });
  await context.close();
  console.log(name);
}

/** Puts the best three fixes on the bench and waits for their range. */
async function benchThree(page: Page) {
  await page.locator('.rows .put').nth(2).waitFor();
  for (let i = 0; i < 3; i++) await page.locator('.rows .put').nth(i).click();
  await page.locator('.bench-bar svg path').first().waitFor();
  await page.evaluate(() => window.scrollTo(0, 0));
}

async function glasshouse(page: Page, tab: string) {
  await benchThree(page);
  await page.getByRole('link', { name: /^Pages/ }).click();
  await page.getByRole('tab', { name: /Recorded by a browser/ }).click();
  await page.locator('main').getByText('The glasshouse').first().click();
  await page.locator('.story svg').getByText('With the bench applied').waitFor();
  await page.getByRole('tab', { name: tab }).click();
  await page.getByText('Reading the source').waitFor({ state: 'detached' });
  await page.locator('.bench-bar svg path').first().waitFor();
}

/** The stand-in site, enlarged, swept from the screens. */
async function sweepShots() {
  const site = await serveDemo(PICTURE_CACHE, { pages: 2000 });
  await shot('sweep-new', '/sites/1/sweep', async (p) => {
    await p.getByText('Scope').click();
    await p.getByLabel('Exclude URLs').fill('/talks/');
    await p.getByText('Keeps').waitFor();
  });
  const started = await browser.newPage();
  await started.goto(`${base}/sites/1/sweep`);
  await started.getByText('What is recorded by a browser').click();
  await started.getByLabel('Pages at most').last().fill('4');
  await started.getByLabel('Recordings of each page').fill('1');
  await started.getByRole('button', { name: 'Start the sweep' }).click();
  await started.locator('.lead').getByText('Done').waitFor({ timeout: 240_000 });
  await started.close();
  await site.close();
  await shot('pages-all', '/sites/1/pages?folder=/plants/&depth=3', async (p) => {
    await p.locator('.page-table .row').nth(5).waitFor();
  });
}

process.on('exit', () => server.kill());
fs.mkdirSync(out, { recursive: true });
await shot('sites', '/', (p) => p.locator('.sites-table').waitFor());
await shot('brief', '/sites/1', benchThree);
await shot('page-phone', '/sites/1', (p) => glasshouse(p, 'Source'));
await shot('plan', '/sites/1/plan', async (p) => {
  await p.getByRole('button', { name: 'Find the fewest fixes' }).click();
  await p.getByRole('button', { name: 'Put them on the bench' }).click();
  await p.getByLabel('Name of the plan').fill('Before the spring fair');
  await p.getByRole('button', { name: 'Save as a plan' }).click();
  await p.getByText('is saved').waitFor();
  await p.locator('.fix-table td .soft', { hasText: ' to ' }).first().waitFor();
  await p.evaluate(() => window.scrollTo(0, 0));
});
await shot('proof', '/sites/1/plan', async (p) => {
  p.setDefaultTimeout(900_000);
  await p.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
  await p.locator('.bench-proof').getByRole('link', { name: 'Prove' }).click();
  await p.getByLabel('Runs of each side').selectOption('5');
  await p.getByRole('button', { name: 'Prove', exact: true }).click();
  await p.getByRole('region', { name: 'Proofs' }).locator('tbody a').first().click();
  await p.locator('.film-strip img').first().waitFor();
  await p.waitForLoadState('networkidle');
});
await shot('concern-mixed', '/sites/1/concerns/mixed', (p) => p.locator('.mixed-cell').first().waitFor());
await shot('concern-weight', '/sites/1/concerns/weight?by=file', (p) => p.locator('.weight-area').first().waitFor());
await shot('concern-hero', '/sites/1/concerns/hero', async (p) => {
  await p.getByText('less here').first().waitFor();
  await p.waitForLoadState('networkidle');
});
await shot('concern-blocking', '/sites/1/concerns/blocking', (p) => p.locator('.chain-link').first().waitFor());
await shot('files', '/sites/1/files?group=host', (p) => p.locator('table.files').waitFor());
await shot('compare', '/sites/1/compare', (p) => p.locator('.slopes').waitFor());
await shot('https', '/sites/1/concerns/https', (p) => p.locator('.entrance-paths svg').waitFor());
await shot('checks', '/sites/1/checks', (p) => p.locator('.checks-table .link').first().waitFor());
await shot('watch', '/sites/1/watch?view=history', (p) => p.locator('.history').waitFor(), 'dark');
await shot('field', '/sites/1/field', async (p) => {
  await p.getByRole('button', { name: 'Fit visitors to these figures' }).click();
  await p.getByText(/^p75 of hero paint over all visits/).waitFor();
});
await shot('trust', '/sites/1/trust', (p) => p.locator('.accuracy-chart .dot').first().waitFor());
await shot('handover', '/sites/1/handover', (p) =>
  p.frameLocator('iframe').getByText('What to do, in this order').waitFor(),
);
await sweepShots();
await browser.close();
server.kill();
fs.rmSync(data, { recursive: true, force: true });
