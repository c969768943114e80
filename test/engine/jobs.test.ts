import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { isGone } from '../../src/engine/jobs/gone';
import { runJob } from '../../src/engine/jobs/runJob';
import { Control } from '../../src/engine/crawl/control';
import { chooseCaptures } from '../../src/engine/services/chooseCaptures';
import type { ImportResult } from '../../src/engine/services/importHar';
import { retrySweep } from '../../src/engine/services/runSweep';
import { startImport, startRecordings, startSweep } from '../../src/engine/services/startJobs';
import {
  askJob,
  beatJob,
  claimJob,
  findJob,
  forgetJob,
  jobResult,
  listJobs,
  nextJobs,
  releaseJob,
  requeueJob,
  runningJobs,
  type JobRow,
} from '../../src/engine/store/jobs';
import { listRecordings } from '../../src/engine/store/recordings';
import { addSite, type SiteRow } from '../../src/engine/store/sites';
import { openStore, type Store } from '../../src/engine/store/store';
import { listSweeps } from '../../src/engine/store/sweeps';
import { bytesOf, har, PAGE } from '../fixtures/har';
import { linking, madeSite, type MadeSite } from '../fixtures/site';
import { fastSettings } from '../fixtures/sweep';
import { tempFolder } from '../fixtures/temp';

const ME = '1:test';

describe('engine/jobs', () => {
  const temp = tempFolder('jobs');
  let store: Store;
  let site: MadeSite;
  let row: SiteRow;
  let closed = false;
  let n = 0;
  before(async () => {
    site = await madeSite((at) => {
      if (at === '/robots.txt') return undefined;
      if (closed && at !== '/') return { with: (r) => r.destroy() };
      const depth = at.split('/').length;
      return depth > 4
        ? linking('/')
        : linking(...Array.from({ length: 5 }, (_, i) => `${at}${'abcde'[i] ?? ''}${depth}/`));
    });
  });
  beforeEach(async () => {
    closed = false;
    store = await openStore(path.join(temp.folder, String(++n)));
    row = await addSite(store, 'Made', site.home);
  });
  afterEach(() => store.destroy());
  after(async () => {
    await site.close();
    temp.remove();
  });
  const sweep = (more = {}) => startSweep(store, row, fastSettings(site.home, { sitemaps: false, ...more }));
  const now = async (job: JobRow) => (await findJob(store, job.id)) as JobRow;
  const pages = async (state: 'done' | 'skipped' | 'waiting' | 'failed') =>
    (await store.selectFrom('pages').select('id').where('state', '=', state).execute()).length;

  it('queues jobs in lanes and tells the place of each', async () => {
    const first = await sweep();
    const other = await addSite(store, 'Other', 'https://growers.mossbank.example/');
    const second = await startSweep(store, other, fastSettings(other.home));
    const file = await startImport(store, { file: 'none', fileName: 'none.har' });
    expect((await nextJobs(store)).map((j) => j.id)).to.deep.equal([first.id, file.id]);
    expect(await claimJob(store, first.id, ME)).to.equal(true);
    expect(await claimJob(store, first.id, '2:other')).to.equal(false);
    const listed = await listJobs(store);
    expect(listed.find((j) => j.id === second.id)?.place).to.equal(1);
    expect((await nextJobs(store)).map((j) => j.id)).to.deep.equal([file.id]);
  });

  it('does not start a second sweep of a site', async () => {
    await sweep();
    const error = await sweep().catch((e: unknown) => e);
    expect(error)
      .to.have.property('what')
      .that.matches(/queued already/);
  });

  it('runs a sweep to its end and keeps its progress', async () => {
    const job = await sweep();
    expect(await runJob(store, job, ME)).to.equal(true);
    const ended = await now(job);
    expect(ended.state).to.equal('done');
    expect(ended.progress?.counts['known']).to.equal(156);
    expect(ended.progress?.now).to.deep.equal([]);
    const [made] = await listSweeps(store, row.id);
    expect(made).to.include({ id: ended.sweepId, addresses: 156 });
    expect(made?.endedAt).to.be.a('string');
  });

  it('pauses, goes on and finishes as if nothing had been', async () => {
    const job = await sweep();
    const control = new Control();
    site.onRequest = () => control.stop('pause');
    await runJob(store, job, ME, { control });
    site.onRequest = undefined;
    expect((await now(job)).state).to.equal('paused');
    expect(await pages('waiting')).to.be.above(0);
    expect(await requeueJob(store, job.id, ['paused'])).to.equal(true);
    await runJob(store, job, ME);
    expect((await now(job)).state).to.equal('done');
    expect(await pages('done')).to.equal(156);
  });

  it('finishes a paused sweep that is cancelled with what it has', async () => {
    const job = await sweep();
    const control = new Control();
    let asked = 0;
    site.onRequest = () => ++asked > 40 && control.stop('pause');
    await runJob(store, job, ME, { control });
    site.onRequest = undefined;
    const before = await pages('done');
    expect(await askJob(store, job.id, 'cancel')).to.equal(true);
    expect((await now(job)).state).to.equal('queued');
    await runJob(store, job, ME);
    expect((await now(job)).state).to.equal('cancelled');
    expect(await pages('waiting')).to.equal(0);
    expect(await pages('done')).to.equal(before);
    const home = await store.selectFrom('pages').select('depth').where('url', '=', site.home).executeTakeFirst();
    expect(home?.depth).to.equal(0);
    await retrySweep(store, job.id);
    expect(await requeueJob(store, job.id, ['cancelled'])).to.equal(true);
    await runJob(store, job, ME);
    expect(await pages('done')).to.equal(156);
  });

  it('says why a sweep failed, and tries again what failed', async () => {
    const away = await addSite(store, 'Away', 'http://127.0.0.1:1/');
    const job = await startSweep(store, away, fastSettings(away.home, { obeyRobots: false, sitemaps: false }));
    await store
      .updateTable('jobs')
      .set({
        input: JSON.stringify({
          siteId: away.id,
          settings: { ...fastSettings(away.home, { obeyRobots: false, sitemaps: false }), maxPages: 1 },
        }),
      })
      .execute();
    await runJob(store, job, ME);
    const failed = await now(job);
    expect(failed.state).to.equal('failed');
    expect(failed.error?.what).to.match(/No page could be fetched.*refused the connection/);
    closed = true;
    const half = await sweep();
    await runJob(store, half, ME);
    expect((await now(half)).state).to.equal('done');
    expect((await now(half)).progress?.failed).to.equal(5);
    closed = false;
    await retrySweep(store, half.id);
    await requeueJob(store, half.id, ['done']);
    await runJob(store, half, ME);
    expect((await now(half)).progress?.failed).to.equal(0);
    expect(await pages('done')).to.equal(156);
  }).timeout(60_000);

  it('takes over what a dead process left, and heeds what was asked of it meanwhile', async () => {
    expect(isGone('999999999:x', Date.now())).to.equal(true);
    expect(isGone(`${process.pid}:x`, Date.now())).to.equal(true);
    expect(isGone(`${process.ppid}:x`, Date.now())).to.equal(false);
    expect(isGone(`${process.ppid}:x`, Date.now() - 3_600_000)).to.equal(true);
    const job = await sweep();
    await claimJob(store, job.id, ME);
    expect((await runningJobs(store)).map((r) => r.owner)).to.deep.equal([ME]);
    await releaseJob(store, job.id);
    expect((await now(job)).state).to.equal('queued');
    await claimJob(store, job.id, ME);
    await askJob(store, job.id, 'pause');
    expect(await beatJob(store, job.id, ME)).to.equal('pause');
    await releaseJob(store, job.id);
    expect(await now(job)).to.include({ state: 'paused', wanted: null });
    expect(await beatJob(store, job.id, ME)).to.equal('lost');
  });

  it('imports an uploaded file and removes it; a broken one says where', async () => {
    const file = path.join(temp.folder, 'up.har');
    fs.writeFileSync(file, bytesOf(har([{ url: PAGE, body: '<h1>x</h1>' }])));
    const job = await startImport(store, { file, fileName: 'up.har' });
    await runJob(store, job, ME);
    expect((await now(job)).state).to.equal('done');
    expect((await jobResult<ImportResult>(store, job.id))?.captures).to.have.length(1);
    expect(fs.existsSync(file)).to.equal(false);
    fs.writeFileSync(file, '{"log":');
    const broken = await startImport(store, { file, fileName: 'up.har' });
    await runJob(store, broken, ME);
    expect((await now(broken)).error?.where).to.match(/up\.har|line|byte|position/);
    expect(fs.existsSync(file)).to.equal(false);
    const gone = await startImport(store, { file, fileName: 'up.har' });
    await runJob(store, gone, ME);
    expect((await now(gone)).error?.next).to.match(/Drop it again/);
    expect(await forgetJob(store, gone.id)).to.equal(true);
    expect(await findJob(store, gone.id)).to.equal(undefined);
  });

  it('records home, pinned pages and the head of each template, once, and goes on after a page that fails', async () => {
    const captures = {
      maxPages: 3,
      order: 'links-in' as const,
      devices: ['phone' as const],
      pins: [`${site.home}a2/b3/`, `${site.home}c2/`],
      browsers: 1,
      runs: 1,
    };
    const job = await sweep({ captures });
    // The pinned page is gone when its turn comes.
    await runJob(store, job, ME, {
      onProgress: (_, phase) => {
        if (phase === 'recording pages') closed = true;
      },
    });
    const made = await listRecordings(store, job.id);
    expect(made.map((r) => [r.url.replace(site.home, '/'), r.why, r.state])).to.deep.equal([
      ['/', 'home page', 'done'],
      ['/a2/b3/', 'pinned', 'failed'],
      ['/c2/', 'pinned', 'failed'],
    ]);
    expect(made[1]?.error).to.match(/could not be opened/);
    const ended = await now(job);
    expect(ended.progress?.failed).to.equal(2);
    closed = false;
    await retrySweep(store, job.id);
    await requeueJob(store, job.id, ['done']);
    await runJob(store, job, ME);
    expect((await listRecordings(store, job.id)).map((r) => r.state)).to.deep.equal(['done', 'done', 'done']);
    const stored = await store.selectFrom('captures').select(['page', 'sweep_id']).execute();
    expect(stored).to.have.length(3);
    expect(new Set(stored.map((c) => c.sweep_id))).to.deep.equal(new Set([ended.sweepId]));
    const one = await startRecordings(
      store,
      row,
      ended.sweepId ?? 0,
      [`${site.home}d2/`],
      fastSettings(site.home, { captures }),
    );
    await runJob(store, one, ME);
    expect((await now(one)).state).to.equal('done');
    expect(await store.selectFrom('captures').select('id').execute()).to.have.length(4);
    const chosen = await chooseCaptures(store, ended.sweepId ?? 0, { ...captures, pins: [], maxPages: 9 });
    expect(chosen[0]?.why).to.equal('home page');
  }).timeout(120_000);
});
