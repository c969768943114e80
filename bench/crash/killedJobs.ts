import { spawn, execFileSync, type ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { setTimeout as pause } from 'node:timers/promises';
import { Migrator, sql } from 'kysely';
import { importHar } from '../../src/engine/services/importHar';
import { startExamination, startImport, startRecordings } from '../../src/engine/services/startJobs';
import { releaseJob, runningJobs } from '../../src/engine/store/jobs';
import { addSite, listSites, saveSiteLimits } from '../../src/engine/store/sites';
import { MIGRATIONS, openStore, projectRoot, TEMP, type Store } from '../../src/engine/store/store';
import { addSweep, endSweep } from '../../src/engine/store/sweeps';
import { removeStrayUploads } from '../../src/engine/store/uploads';
import { madeSite, type MadeSite } from '../../test/fixtures/site';
import { fastSettings } from '../../test/fixtures/sweep';

/** What is killed in the middle. */
export const WORK = ['import', 'examination', 'recording', 'migration'] as const;
export type KilledWork = (typeof WORK)[number];

/** What kills of one kind of work came to. */
export interface KilledJobs {
  readonly work: KilledWork;
  readonly kills: number;
  /** Kills that hit before the work had ended. */
  readonly inTheMiddle: number;
  readonly faults: readonly string[];
}

const CAPTURES = ['glasshouse-phone.har.gz', 'membership-phone.har.gz'];
const capture = (name: string) => path.join(projectRoot(), 'demo/captures', name);

/** A data folder with the work waiting in it. */
async function prepare(work: KilledWork, folder: string, site: MadeSite): Promise<void> {
  const store = await openStore(folder);
  const uploads = path.join(folder, 'uploads');
  fs.mkdirSync(uploads);
  if (work === 'import') {
    for (const name of CAPTURES) {
      fs.copyFileSync(capture(name), path.join(uploads, name));
      await startImport(store, { file: path.join(uploads, name), fileName: name });
    }
  } else if (work === 'recording') {
    const settings = fastSettings(site.home);
    const row = await addSite(store, 'Made', site.home);
    const sweepId = await addSweep(store, row.id, settings);
    await endSweep(store, sweepId);
    await startRecordings(store, row, sweepId, [site.home], {
      ...settings,
      captures: { ...settings.captures, devices: ['phone'], runs: 1 },
    });
  } else {
    for (const name of CAPTURES) await importHar(store, fs.readFileSync(capture(name)), name);
    const [row] = await listSites(store);
    if (!row) throw new Error('no site');
    if (work === 'examination') {
      await saveSiteLimits(store, row.id, { 'hero-late.place': 3 });
      await startExamination(store, row);
    } else {
      const migrator = new Migrator({ db: store, provider: { getMigrations: () => Promise.resolve(MIGRATIONS) } });
      await migrator.migrateTo('004-plans');
    }
  }
  await sql`pragma wal_checkpoint(truncate)`.execute(store);
  await store.destroy();
}

/** Everything stored that two runs of the same work share. */
async function dump(store: Store, work: KilledWork): Promise<Record<string, unknown>> {
  const captures = await store.selectFrom('captures').selectAll().execute();
  const bodies = await store.selectFrom('bodies').select('hash').orderBy('hash').execute();
  const findings = await store.selectFrom('findings').select(['check', 'capture_id']).execute();
  const jobs = await store.selectFrom('jobs').select(['kind', 'state']).execute();
  const check = await sql<Record<string, string>>`pragma quick_check`.execute(store);
  const checks = findings.map((f) => f.check).sort();
  return {
    pages: captures.map((c) => c.page).sort(),
    jobs: jobs.map((j) => `${j.kind} ${j.state}`).sort(),
    database: Object.values(check.rows[0] ?? {}),
    // Two recordings of one page are not alike byte by byte.
    ...(work === 'recording' ? { found: checks.length > 0 } : { bodies: bodies.map((b) => b.hash), checks }),
  };
}

const start = (folder: string): ChildProcess =>
  spawn(process.execPath, [path.join(projectRoot(), 'bench/crash/child.mjs'), folder], {
    stdio: ['ignore', 'pipe', 'pipe'],
  });

const ended = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((done) => child.once('exit', () => done()));

/** Lets a process do the work to its end. @throws what it says when it fails */
async function finish(folder: string): Promise<void> {
  const child = start(folder);
  let said = '';
  child.stderr?.on('data', (d: Buffer) => (said += d.toString()));
  await ended(child);
  if (child.exitCode !== 0) throw new Error(said);
}

/** Browsers that still use a data folder, once they had time to notice that nobody talks to them. */
async function leftBrowsers(folder: string): Promise<number> {
  for (let i = 0; ; i++) {
    const list = execFileSync('ps', ['-eo', 'args'], { encoding: 'utf8', maxBuffer: 16 << 20 });
    const left = list.split('\n').filter((l) => l.includes(path.join(folder, TEMP))).length;
    if (left === 0 || i >= 50) return left;
    await pause(200);
  }
}

/** Kills work at so many moments, spread over the time it takes; does it again each time, and looks what is there. */
export async function killJobs(work: KilledWork, kills: number, folder: string): Promise<KilledJobs> {
  const site = await madeSite((at) =>
    at === '/'
      ? `<!doctype html><title>Fern</title><link rel=stylesheet href=/a.css><img src=/a.svg width=300 height=200><p>${'garden '.repeat(200)}`
      : at === '/a.css'
        ? { headers: { 'content-type': 'text/css' }, body: 'p{color:green}' }
        : at === '/a.svg'
          ? { headers: { 'content-type': 'image/svg+xml' }, body: '<svg xmlns="http://www.w3.org/2000/svg"/>' }
          : undefined,
  );
  const base = path.join(folder, work);
  await prepare(work, base, site);
  const calm = `${base}-c`;
  fs.cpSync(base, calm, { recursive: true });
  await moveUploads(calm);
  const began = Date.now();
  await finish(calm);
  const takesMs = Date.now() - began;
  const store = await openStore(calm);
  const expected = await dump(store, work);
  await store.destroy();
  const faults: string[] = [];
  let inTheMiddle = 0;
  for (let i = 0; i < kills; i++) {
    const data = `${base}-${i}`;
    fs.cpSync(base, data, { recursive: true });
    await moveUploads(data);
    const child = start(data);
    await pause(Math.round(((i + 0.5) / kills) * takesMs));
    if (child.exitCode === null) inTheMiddle++;
    child.kill('SIGKILL');
    await ended(child);
    const browsers = await leftBrowsers(data);
    if (browsers > 0) faults.push(`${i}: ${browsers} processes left`);
    try {
      await recover(data);
      await finish(data);
      faults.push(...(await compare(data, work, expected)).map((f) => `${i}: ${f}`));
    } catch (error) {
      faults.push(`${i}: ${error instanceof Error ? error.message.slice(0, 300) : String(error)}`);
    }
    fs.rmSync(data, { recursive: true, force: true });
  }
  await site.close();
  return { work, kills, inTheMiddle, faults };
}

/** An import reads its file from where it was put: in a copied folder that is another place. */
async function moveUploads(data: string): Promise<void> {
  const store = await openStore(data);
  const names = fs.readdirSync(path.join(data, 'uploads'));
  if (names.length > 0) {
    await store.deleteFrom('jobs').execute();
    for (const name of CAPTURES) await startImport(store, { file: path.join(data, 'uploads', name), fileName: name });
  }
  await store.destroy();
}

/** What a server does when it starts. */
async function recover(data: string): Promise<void> {
  const store = await openStore(data);
  for (const job of await runningJobs(store)) await releaseJob(store, job.id);
  await removeStrayUploads(store, data);
  fs.rmSync(path.join(data, TEMP), { recursive: true, force: true });
  await store.destroy();
}

async function compare(data: string, work: KilledWork, expected: Record<string, unknown>): Promise<string[]> {
  const store = await openStore(data);
  const found = await dump(store, work);
  const uploads = fs.readdirSync(path.join(data, 'uploads'));
  await store.destroy();
  return [
    ...Object.keys(expected).flatMap((part) =>
      isDeepStrictEqual(found[part], expected[part])
        ? []
        : [
            `${part}: ${JSON.stringify(found[part]).slice(0, 200)} instead of ${JSON.stringify(expected[part]).slice(0, 200)}`,
          ],
    ),
    ...(uploads.length > 0 ? [`${uploads.length} uploads left`] : []),
  ];
}
