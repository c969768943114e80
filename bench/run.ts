/** `npm run bench`: measures what docs/bench.md states and writes it there. */
import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { fileURLToPath } from 'node:url';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { gunzipSync } from 'node:zlib';
import { bodiesInMemory } from '../src/core/capture/capture';
import { readHar } from '../src/core/capture/har';
import { simulate } from '../src/core/load/simulate';
import { VISITORS } from '../src/core/load/visitors';
import { forecast } from '../src/core/plan/forecast';
import { auditPage, type Audit } from '../src/core/plan/audit';
import { benchFigures, benchRange } from '../src/core/plan/bench';
import { buildStaircase, groupFixes } from '../src/core/plan/staircase';
import { readPage } from '../src/core/source/page';
import { importHar } from '../src/engine/services/importHar';
import { openStore } from '../src/engine/store/store';
import { measureCrawl } from './crawl';
import { machine } from './machine';
import { largeHar, wideHar } from './made';
import { withDemo } from './self/demoServer';
import { measureMoves } from './self/moves';

const root = path.join(path.dirname(fileURLToPath(import.meta.url)), '..');
const phone = VISITORS[0] as (typeof VISITORS)[number];

interface Row {
  readonly what: string;
  readonly figure: string;
  readonly wanted: string;
  readonly ok: boolean;
}

if (process.argv[2] === 'child') await child(process.argv[3] ?? '');
else await main();

async function main(): Promise<void> {
  const rows: Row[] = [];
  const wide = path.join(os.tmpdir(), 'keen-lens-bench-200.har');
  const large = path.join(os.tmpdir(), 'keen-lens-bench-100mb.har');
  fs.writeFileSync(wide, wideHar(200));
  fs.writeFileSync(large, largeHar(100 * 1024 * 1024));
  const small = inChild(wide);
  rows.push(row('import and audit of a capture of 200 loads, with measuring', small.ms, 1000, 'ms'));
  const big = inChild(large);
  rows.push(row(`import of a HAR of ${Math.round(fs.statSync(large).size / 1048576)} MB`, big.ms, 6000, 'ms'));
  rows.push(row('memory of that import at its highest (resident)', big.mb, 600, 'MB'));
  const audit = auditsOf(fs.readFileSync(wide))[0] as Audit;
  rows.push(
    row(
      'simulating a capture of 200 loads (median of 300, the lowest of five: the host takes time away)',
      lowest(300, () => simulate(audit.graph, phone)),
      1,
      'ms',
    ),
    {
      what: 'bytes allocated by one of these',
      figure: `${Math.round(allocated(() => simulate(audit.graph, phone)) / 1024)} kB`,
      wanted: '',
      ok: true,
    },
  );
  const wider = auditsOf(Buffer.from(wideHar(1000)))[0] as Audit;
  rows.push(
    row(
      'simulating a capture of 1,000 loads (median of 100, the lowest of five)',
      lowest(100, () => simulate(wider.graph, phone)),
      8,
      'ms',
    ),
  );
  const demoPage = demoAudits()[0] as Audit;
  const allFixes = times(7, () => {
    // A graph of its own, so that nothing is remembered from the run before.
    const graph = { ...demoPage.graph };
    for (const v of VISITORS) for (const f of demoPage.fixes) forecast(graph, [f], v);
  });
  rows.push(
    row(
      `all ${demoPage.fixes.length} fixes of a demo page for three visitors, each with its range of 24 draws (median of 7)`,
      median(allFixes),
      500,
      'ms',
    ),
  );
  const demo = demoAudits();
  const ids = groupFixes(demo).map((g) => g.id);
  let k = 0;
  const toggles = times(60, () => {
    // Each toggle asks for a bench nobody has asked for yet.
    const chosen = ids.filter((_, i) => (k >> (i % 12)) & 1 || i === k % ids.length);
    k++;
    benchFigures(demo, chosen, phone);
  });
  rows.push(row('bench answer after a toggle on the demo (median of 60)', median(toggles), 100, 'ms'));
  rows.push(row('the same, slowest of 60', Math.max(...toggles), 100, 'ms'));
  const chosen = ids.slice(0, 5);
  const figures = benchFigures(demo, chosen, phone);
  const [ranges] = times(1, () => benchRange(demo, chosen, phone, figures));
  rows.push({
    what: 'its range, which follows (24 draws, 8 pages, five fixes)',
    figure: `${(ranges ?? 0).toFixed(0)} ms`,
    wanted: '',
    ok: true,
  });
  const [stairs] = times(1, () => buildStaircase(demo, VISITORS[1] as typeof phone));
  rows.push({
    what: 'the staircase of the demo for a new visitor',
    figure: `${(stairs ?? 0).toFixed(0)} ms`,
    wanted: '',
    ok: true,
  });
  const moves = await withDemo(measureMoves);
  rows.push(
    row(`moving between screens of the demo, click to content (median of ${moves.length})`, median(moves), 200, 'ms'),
    row('the same, slowest', Math.max(...moves), 200, 'ms'),
  );
  rows.push(...(await crawlRows()));
  print(rows);
  fs.rmSync(wide);
  fs.rmSync(large);
  if (rows.some((r) => !r.ok)) process.exitCode = 1;
}

/** The sweep of the stand-in site enlarged to ten thousand pages, rate limits off. */
async function crawlRows(): Promise<Row[]> {
  const c = await measureCrawl();
  const whole = c.sweepMs + c.finishMs;
  const times = whole / c.bareMs;
  return [
    {
      what: `sweep of ${c.pages.toLocaleString('en-GB')} addresses, storing and working out included`,
      figure: `${(whole / 1000).toFixed(1)} s, ${c.pagesPerSecond.toFixed(0)} a second`,
      wanted: 'at least 150 a second',
      ok: c.pagesPerSecond >= 150,
    },
    {
      what: `the same against a bare loop of fetch and parse5 over the same pages (${(c.bareMs / 1000).toFixed(1)} s)`,
      figure: `${times.toFixed(2)} times`,
      wanted: 'at most 2 times',
      ok: times <= 2,
    },
    row('memory of that sweep at its highest (resident)', c.highestMb, 500, 'MB'),
    {
      what: 'the same after the first thousand pages, before the last thousand',
      figure: `${c.firstMb.toFixed(0)}, ${c.lastMb.toFixed(0)} MB`,
      wanted: 'flat',
      ok: c.lastMb - c.firstMb < 100,
    },
    row('first rows of the Pages table with these, from the click (median of 7)', c.rowsMs, 300, 'ms'),
    row('the answer of the server in that (median of 7)', c.rowsServerMs, 300, 'ms'),
  ];
}

/** Imports in a process of its own, so that memory is that of the import alone. */
function inChild(file: string): { ms: number; mb: number } {
  const out = execFileSync(process.execPath, ['--import', 'tsx', fileURLToPath(import.meta.url), 'child', file], {
    cwd: root,
    encoding: 'utf8',
  });
  return JSON.parse(out) as { ms: number; mb: number };
}

async function child(file: string): Promise<void> {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-bench-'));
  const store = await openStore(folder);
  const start = performance.now();
  await importHar(store, fs.readFileSync(file), path.basename(file));
  const ms = performance.now() - start;
  await store.destroy();
  fs.rmSync(folder, { recursive: true });
  console.log(JSON.stringify({ ms, mb: process.resourceUsage().maxRSS / 1024 }));
}

function auditsOf(bytes: Uint8Array): Audit[] {
  return readHar(bytes).map(({ capture, bodies }) => auditPage(readPage(capture, bodiesInMemory(bodies))));
}

function demoAudits(): Audit[] {
  const folder = path.join(root, 'demo/captures');
  const files = fs.readdirSync(folder).filter((f) => f.endsWith('-phone.har.gz'));
  return files.flatMap((f) => auditsOf(gunzipSync(fs.readFileSync(path.join(folder, f)))));
}

function times(n: number, run: () => unknown): number[] {
  return Array.from({ length: n }, () => {
    const start = performance.now();
    run();
    return performance.now() - start;
  });
}

/** Bytes that a run takes of heap and array buffers, on average of ten right after a collection: too few for another. */
function allocated(run: () => unknown): number {
  for (let i = 0; i < 20; i++) run();
  setFlagsFromString('--expose-gc');
  (runInNewContext('gc') as () => void)();
  const taken = () => process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers;
  const before = taken();
  for (let i = 0; i < 10; i++) run();
  return Math.max(0, taken() - before) / 10;
}

/** The lowest of five medians. */
function lowest(n: number, run: () => unknown): number {
  return Math.min(...Array.from({ length: 5 }, () => median(times(n, run))));
}

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
}

function row(what: string, value: number, most: number, unit: string): Row {
  return {
    what,
    figure: `${value < 10 ? value.toFixed(2) : value.toFixed(0)} ${unit}`,
    wanted: `under ${most} ${unit}`,
    ok: value < most,
  };
}

function print(rows: readonly Row[]): void {
  console.table(Object.fromEntries(rows.map((r) => [r.what, { measured: r.figure, wanted: r.wanted, ok: r.ok }])));
  const text = `# Speed\n\nMeasured by \`npm run bench\` on ${machine()}.\n\n| what | measured | wanted |\n|---|---|---|\n${rows.map((r) => `| ${r.what} | ${r.figure} | ${r.wanted || '-'} |`).join('\n')}\n\nThe 200-load capture and the 100 MB file are made up by \`bench/made.ts\`. How true the forecasts are is not\nmeasured here.\n`;
  fs.writeFileSync(path.join(root, 'docs/bench.md'), text);
  fs.mkdirSync(path.join(root, 'bench/results'), { recursive: true });
  fs.writeFileSync(
    path.join(root, 'bench/results/speed.json'),
    JSON.stringify({ machine: machine(), rows }, null, 2) + '\n',
  );
}
