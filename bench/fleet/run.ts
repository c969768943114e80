/**
 * `npm run bench:fleet [-- --only speed|kills|real] [--kills N]`: how recorders elsewhere scale, what is lost when recorders, queue and server
 * are killed, and whether two of them record what one process records. Writes docs/fleet-bench.md.
 */
import { spawn, type ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import { PAGES } from '../../demo/site/pages';
import { PICTURE_CACHE, serveDemo } from '../../demo/site/serve';
import { defaultSettings } from '../../src/core/site/settings';
import { startRecordings } from '../../src/engine/services/startJobs';
import { addSite } from '../../src/engine/store/sites';
import { projectRoot, type Store } from '../../src/engine/store/store';
import { addSweep } from '../../src/engine/store/sweeps';
import { siteToRecord } from '../../test/fixtures/fleet';
import { machine } from '../machine';
import { cpuSeconds, killed, madeRecorders, startFleet, untilDone, untilRecorded } from './parts';

const { values } = parseArgs({
  options: {
    only: { type: 'string' },
    kills: { type: 'string', default: '50' },
    recorders: { type: 'string', default: '1,2,4,8,16,64' },
  },
});
const RESULTS = path.join(projectRoot(), 'bench/results/fleet.json');
type Results = Readonly<
  Record<string, { readonly measured: string; readonly rows: readonly (readonly (string | number)[])[] }>
>;
const results: Record<string, Results[string]> = fs.existsSync(RESULTS)
  ? { ...(JSON.parse(fs.readFileSync(RESULTS, 'utf8')) as Results) }
  : {};
const root = fs.mkdtempSync(path.join(os.tmpdir(), 'kl-'));
let port = 4610;

for (const [name, run] of Object.entries({ speed, kills, real })) {
  if (values.only !== undefined && values.only !== name) continue;
  const rows = await run();
  // Some numbers of recorders may be measured again.
  const others = name === 'speed' ? (results[name]?.rows ?? []).filter((r) => rows.every((n) => n[0] !== r[0])) : [];
  results[name] = {
    measured: machine(),
    rows: [...others, ...rows].sort((a, b) => (name === 'speed' ? Number(a[0]) - Number(b[0]) : 0)),
  };
  console.table(results[name].rows);
  fs.writeFileSync(RESULTS, JSON.stringify(results, null, 2) + '\n');
}
fs.rmSync(root, { recursive: true, force: true });
fs.writeFileSync(path.join(projectRoot(), 'docs/fleet-bench.md'), document());
process.exit(0);

/** Throughput of 1 to 64 recorders that take a fixed time for each page. */
async function speed(): Promise<(string | number)[][]> {
  const MS = 5000;
  const ROUNDS = 8;
  const rows: (string | number)[][] = [];
  let one = Number(results.speed?.rows.find((r) => r[0] === 1)?.[3] ?? 0);
  for (const count of values.recorders.split(',').map(Number)) {
    const fleet = await startFleet(path.join(root, `speed-${count}`), port++);
    const recorders = await madeRecorders(fleet, count, MS);
    const sites = Math.min(8, count);
    const jobs = await Promise.all(
      Array.from({ length: sites }, (_, i) =>
        siteToRecord(fleet.store, `s${i + 1}.fernhollow.example`, (count * ROUNDS) / sites, 16),
      ),
    );
    const ids = jobs.map((j) => j.jobId);
    // Counted from when each recorder has brought a page: by then jobs and recorders have started.
    const first = await untilDone(fleet.store, ids, count);
    const before = cpuSeconds(fleet.server().pid);
    const started = Date.now();
    const done = (await untilRecorded(fleet.store, ids)).done - first;
    const seconds = (Date.now() - started) / 1000;
    const cpu = (cpuSeconds(fleet.server().pid) - before) / seconds;
    const perMinute = (done * 60) / seconds;
    if (count === 1) one = perMinute;
    rows.push([
      count,
      done,
      seconds.toFixed(1),
      perMinute.toFixed(1),
      percent(perMinute / (count * (one || perMinute))),
      percent((perMinute * MS) / (60_000 * count)),
      cpu.toFixed(2),
    ]);
    console.log(rows.at(-1)?.join('  '));
    await killed(recorders);
    await fleet.stop();
  }
  return rows;
}

/** Kills recorders, Redis and the server at random moments: every recording is stored once. */
async function kills(): Promise<(string | number)[][]> {
  const fleet = await startFleet(path.join(root, 'kills'), port++);
  const LOCK_MS = 2000;
  const recorders: ChildProcess[] = await Promise.all(
    Array.from({ length: 4 }, () => madeRecorders(fleet, 1, 250, LOCK_MS)),
  );
  const jobs: number[] = [];
  const more = async () =>
    jobs.push((await siteToRecord(fleet.store, `k${jobs.length + 1}.fernhollow.example`, 60, 2)).jobId);
  for (let i = 0; i < 4; i++) await more();
  const wanted = Number(values.kills);
  const done = { recorder: 0, redis: 0, server: 0 };
  for (let i = 0; i < wanted; i++) {
    await pause(200 + Math.random() * 1500);
    const kind = (['recorder', 'redis', 'server'] as const)[i % 3] ?? 'recorder';
    done[kind]++;
    if (kind === 'recorder') {
      const at = Math.floor(Math.random() * recorders.length);
      await killed(recorders[at] as ChildProcess);
      recorders[at] = await madeRecorders(fleet, 1, 250, LOCK_MS);
    } else if (kind === 'redis') {
      await fleet.redis.kill();
      await pause(Math.random() * 800);
      await fleet.redis.start();
    } else {
      await killed(fleet.server());
      await fleet.startServer();
    }
    // There is always something under way.
    const open = await fleet.store
      .selectFrom('jobs')
      .select('id')
      .where('state', 'in', ['queued', 'running'])
      .execute();
    if (open.length < 3) await more();
  }
  const ended = await untilRecorded(fleet.store, jobs);
  const captures = await fleet.store.selectFrom('captures').select(['page', 'sweep_id']).execute();
  const once = new Set(captures.map((c) => `${c.sweep_id} ${c.page}`));
  const lost = jobs.length * 60 - ended.done - ended.failed;
  for (const child of recorders) await killed(child);
  await fleet.stop();
  const left = fs.readdirSync(path.join(root, 'kills/inbox')).length;
  return [
    [
      done.recorder,
      done.redis,
      done.server,
      jobs.length * 60,
      ended.done,
      ended.failed,
      lost,
      captures.length - once.size,
      left,
    ],
  ];
}

/** The demo's pages, recorded by the server itself and by two recorders: what each found. */
async function real(): Promise<(string | number)[][]> {
  const site = await serveDemo(PICTURE_CACHE, {});
  const urls = PAGES.filter((p) => p.path !== '/').map((p) => `https://${p.host}.fernhollow.example${p.path}`);
  const rows: (string | number)[][] = [];
  for (const by of ['the server', 'two recorders'] as const) {
    const folder = path.join(root, by.replace(' ', '-'));
    const fleet = await startFleet(folder, port++, by === 'two recorders');
    const recorders =
      by === 'the server'
        ? []
        : [1, 2].map((n) => realRecorder(folder, fleet.redis.address, fleet.url, fleet.token, n));
    const started = Date.now();
    const jobId = await recordAll(fleet.store, urls, site.map);
    const { done, failed } = await untilRecorded(fleet.store, [jobId]);
    rows.push([by, done, failed, ((Date.now() - started) / 1000).toFixed(0), ...(await found(fleet.store))]);
    for (const child of recorders) await killed(child);
    await fleet.stop();
  }
  await site.close();
  return rows;
}

function realRecorder(folder: string, queue: string, server: string, token: string, n: number): ChildProcess {
  const file = path.join(folder, 'recorder.token');
  fs.writeFileSync(file, token, { mode: 0o600 });
  const args = ['recorder', '--queue', queue, '--server', server, '--token-file', file, '--name', `recorder-${n}`];
  return spawn(process.execPath, [path.join(projectRoot(), 'bin/keen-lens.mjs'), ...args], { stdio: 'ignore' });
}

async function recordAll(store: Store, urls: readonly string[], mapHosts: readonly string[]): Promise<number> {
  const home = 'https://www.fernhollow.example/';
  const site = await addSite(store, 'Fernhollow', home);
  const settings = { ...defaultSettings(home), mapHosts, acceptAnyCertificate: true, allowPrivate: true };
  const captures = { ...settings.captures, devices: ['phone', 'desktop'] as const, browsers: 2, runs: 1 };
  const sweepId = await addSweep(store, site.id, settings);
  return (await startRecordings(store, site, sweepId, urls, { ...settings, captures })).id;
}

/** Loads, bytes and findings of all captures; what was loaded, as one text to compare. */
async function found(store: Store): Promise<(string | number)[]> {
  const rows = await store.selectFrom('captures').select(['requests', 'bytes', 'findings']).execute();
  const sum = (key: 'requests' | 'bytes' | 'findings') => rows.reduce((n, r) => n + r[key], 0);
  return [sum('requests'), sum('bytes'), sum('findings')];
}

function percent(share: number): string {
  return `${(100 * share).toFixed(0)} %`;
}

function document(): string {
  const part = (title: string, how: string, name: string, head: readonly string[]) => {
    const result = results[name];
    const line = (cells: readonly (string | number)[]) => `| ${cells.join(' | ')} |`;
    const table = result
      ? [line(head), line(head.map(() => '---')), ...result.rows.map(line)].join('\n')
      : 'Not run yet.';
    return `## ${title}\n\n${how}\n\n${table}\n\n${result?.measured ?? ''}\n`;
  };
  return `# Recorders elsewhere: how they scale, and what kills cost

Made by \`npm run bench:fleet\`. Do not edit: \`bench/fleet/run.ts\` writes it. How recorders are set up says [fleet.md](fleet.md).

${part(
  'Speed',
  'Recorders without a browser take 5 s for each page, through the queue and the API; eight pages each, of up to eight sites, counted once each has brought one. Wanted: 95 % of linear up to 16, 85 % at 64, the server under one core. The share of the ideal counts every wait: 100 % is a page every 5 s from each recorder.',
  'speed',
  ['Recorders', 'Pages', 'Seconds', 'Pages a minute', 'Of linear', 'Of the ideal', 'Cores of the server'],
)}
${part(
  'Killed at random moments',
  'Four recorders, Redis without any copy on the disk, and the server are killed (SIGKILL) in turn at random moments, and started again, while at least three sites are being recorded.',
  'kills',
  [
    'Recorders killed',
    'Redis killed',
    'Server killed',
    'Recordings',
    'Done',
    'Failed',
    'Lost',
    'Stored twice',
    'Left in the inbox',
  ],
)}
${part(
  'The same captures',
  'The pages of the demo, as phone and desktop, one run each, two browsers at a time: by the server itself, and by two recorders of this machine with Chromium.',
  'real',
  ['Recorded by', 'Done', 'Failed', 'Seconds', 'Loads', 'Bytes', 'Findings'],
)}`;
}
