/**
 * `npm run bench:large [-- --copies N --pictures N]`: one very large site in a real browser. Seeds three sweeps of about
 * 10,000 pages, each with some 90,000 files and 180,000 findings, and writes docs/large-bench.md. `--data FOLDER` takes, or
 * keeps, what was seeded there.
 */
import type { ChildProcess } from 'node:child_process';
import Database from 'better-sqlite3';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { chromium } from 'playwright-core';
import { findChromium } from '../../src/engine/record/chromium';
import { DATABASE, projectRoot } from '../../src/engine/store/store';
import { startBuiltServer } from '../builtServer';
import { freePort } from '../crawl';
import { machine } from '../machine';
import { seedLarge } from './seed';
import { scrollPages, tabMemory, walkLists, type Step } from './walk';

const { values } = parseArgs({
  options: {
    copies: { type: 'string', default: '97' },
    pictures: { type: 'string', default: '90' },
    data: { type: 'string' },
  },
});
/** From when the server listens to the first look, in ms: people read the address first. */
const STARTED_MS = 5000;

const folder = values.data ?? fs.mkdtempSync(path.join(os.tmpdir(), 'kl-large-'));
const given = values.data !== undefined && fs.existsSync(path.join(folder, DATABASE));
const keepMs = given
  ? 0
  : await seedLarge(folder, { copies: Number(values.copies), pictures: Number(values.pictures) });
const port = await freePort();
const server = await serve();
const browser = await chromium.launch({
  executablePath: findChromium(),
  args: process.getuid?.() === 0 ? ['--no-sandbox'] : [],
});
const site = `http://127.0.0.1:${port}/sites/1`;
try {
  const screens = await firstContent();
  console.table(screens);
  const steps = await walkLists(browser, site);
  console.table(steps);
  const scroll = await scrollPages(browser, site);
  console.table([scroll]);
  const tabs = await memories();
  console.table(tabs);
  fs.writeFileSync(path.join(projectRoot(), 'docs/large-bench.md'), document(screens, steps, scroll, tabs));
} finally {
  await browser.close();
  server.kill('SIGKILL');
  if (values.data === undefined) fs.rmSync(folder, { recursive: true, force: true });
}
process.exit(0);

async function serve(): Promise<ChildProcess> {
  const child = await startBuiltServer(folder, port, { KEEN_LENS_LOG: 'warn' });
  await new Promise((done) => setTimeout(done, STARTED_MS));
  return child;
}

/** First contentful paint of each screen with an empty cache: the very first look, and the middle of three more. */
async function firstContent(): Promise<Step[]> {
  const screens: readonly (readonly [name: string, path: string, wantedMs: number])[] = [
    ['Brief', '', 500],
    ['Pages', '/pages', 500],
    ['Recorded pages', '/pages?view=captured', 500],
    ['Files', '/files', 500],
    ['Mixed content', '/concerns/mixed', 500],
    ['Hero', '/concerns/hero', 500],
    ['Weight', '/concerns/weight', 500],
    ['Blocking', '/concerns/blocking', 500],
    ['HTTPS coverage', '/concerns/https', 500],
    ['Bench and plans', '/plan', 500],
    ['Hand over', '/handover', 500],
    ['Watch', '/watch', 500],
    ['New sweep', '/sweep', 500],
    ['Then & now', '/compare', 2000],
  ];
  const out: Step[] = [];
  for (const [screen, at, wantedMs] of screens) {
    const times: number[] = [];
    for (let i = 0; i < 4; i++) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
      const page = await context.newPage();
      page.setDefaultTimeout(120_000);
      await page.goto(site + at, { waitUntil: 'load' });
      await page.waitForFunction(() => performance.getEntriesByName('first-contentful-paint').length > 0);
      times.push(await page.evaluate(() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0));
      await context.close();
    }
    const [first = 0, ...more] = times;
    out.push({ screen, what: 'the very first look', ms: first, wantedMs });
    out.push({ screen, what: 'then', ms: more.sort((a, b) => a - b)[1] ?? 0, wantedMs });
  }
  return out;
}

async function memories(): Promise<{ what: string; mib: number; wanted: number }[]> {
  const out = [];
  for (const [name, at] of [
    ['Brief', ''],
    ['Pages', '/pages?view=all'],
    ['Files', '/files'],
    ['Then & now', '/compare'],
  ] as const)
    out.push({ what: `tab with ${name}`, mib: Math.round(await tabMemory(browser, site + at)), wanted: 300 });
  const status = fs.readFileSync(`/proc/${server.pid}/status`, 'utf8');
  out.push({
    what: 'server, most at any time',
    mib: Math.round(Number(/^VmHWM:\s+(\d+)/m.exec(status)?.[1] ?? 0) / 1024),
    wanted: 600,
  });
  return out;
}

function document(
  screens: readonly Step[],
  steps: readonly Step[],
  scroll: Awaited<ReturnType<typeof scrollPages>>,
  tabs: Awaited<ReturnType<typeof memories>>,
): string {
  const db = new Database(path.join(folder, DATABASE), { readonly: true });
  const one = (sql: string) => (db.prepare(sql).get() as { n: number }).n.toLocaleString('en-GB');
  const last = '(select max(id) from sweeps)';
  const counts = {
    pages: one(`select count(*) n from pages where sweep_id = ${last}`),
    links: one(`select count(*) n from links where sweep_id = ${last}`),
    captures: one(`select count(*) n from captures where sweep_id = ${last}`),
    findings: one('select count(*) n from findings'),
    requests: one(`select sum(requests) n from captures where sweep_id = ${last}`),
  };
  db.close();
  const row = (cells: readonly (string | number)[]) => `| ${cells.join(' | ')} |`;
  const list = (title: string, rows: readonly Step[]) => `## ${title}

${[
  row(['Screen', 'What', 'ms', 'Wanted', 'Within']),
  row(['---', '---', '---', '---', '---']),
  ...rows.map((s) =>
    row([s.screen, s.what, Math.round(s.ms), `under ${s.wantedMs}`, s.ms < s.wantedMs ? 'yes' : '**no**']),
  ),
].join('\n')}
`;
  return `# One very large site

Made by \`npm run bench:large\` (${machine()}). Do not edit: \`bench/large\` writes it.

The demo's site ${values.copies} times over, in three sweeps, in a real browser on loopback. The latest sweep has ${counts.pages} pages with
${counts.links} links between them, ${counts.captures} of them recorded with ${counts.requests} requests; all three have ${counts.findings} findings. ${
    keepMs > 0
      ? `What screens show of the latest one was worked out in ${Math.round(keepMs / 1000)} s when it ended.`
      : ''
  }

${list('First content', screens)}
${list('Lists', steps)}
## Scrolling

The list of all pages scrolled by ${scroll.frames} steps of 100 px, a frame each: ${scroll.blank} times there was nothing in its middle, ${scroll.empty} times a row whose
content was still on its way.

## Memory

${[
  row(['What', 'MiB', 'Wanted', 'Within']),
  row(['---', '---', '---', '---']),
  ...tabs.map((t) => row([t.what, t.mib, `under ${t.wanted}`, t.mib < t.wanted ? 'yes' : '**no**'])),
].join('\n')}
`;
}
