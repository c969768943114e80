import { expect } from 'chai';
import fs from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { PageError } from '../../../src/core/capture/errors';
import { defaultSettings } from '../../../src/core/site/settings';
import type { Recorder, RecorderOptions } from '../../../src/engine/fleet/recorder';
import { doRemoteTask, type TaskWork } from '../../../src/engine/fleet/remoteTask';
import type { ReplayPlan, ReplayRuns } from '../../../src/engine/replay/runReplay';
import { startProbe } from '../../../src/engine/services/startJobs';
import type { ProofRow } from '../../../src/engine/store/proofs';
import { lastProbe } from '../../../src/engine/store/probes';
import { addSite } from '../../../src/engine/store/sites';
import { openStore, type Store } from '../../../src/engine/store/store';
import { madeRecorder, recorderToken } from '../../fixtures/fleet';
import { bytesOf, har, PAGE } from '../../fixtures/har';
import { askApi, jobEnd } from '../../fixtures/jobs';
import { hasRedis, startRedis, type TestRedis } from '../../fixtures/redis';
import { startServer, type TestServer } from '../../fixtures/server';

interface Waiting {
  readonly state: string;
  readonly progress?: { readonly waiting?: string; readonly now: readonly string[] };
}

const visit = (lcpMs: number) => ({
  fcpMs: lcpMs,
  lcpMs,
  loadMs: lcpMs + 100,
  cls: 0,
  bytes: 5000,
  requests: [{ url: PAGE, foundMs: 1, sentMs: 2, firstByteMs: 30, endMs: 40 }],
  hero: 'h1',
  errors: [],
  unreachable: [],
  steal: 0,
  frames: [],
});

/** What a recorder would measure, without a browser. */
const madeRuns = (lcpMs: readonly [before: number, after: number]): ReplayRuns => ({
  browser: 'Chromium made',
  way: 'userspace',
  warm: visit(lcpMs[0]),
  before: [visit(lcpMs[0]), visit(lcpMs[0])],
  after: [visit(lcpMs[1]), visit(lcpMs[1])],
  film: { before: [{ atMs: 10, picture: Buffer.from('jpeg') }], after: [] },
  unanswered: [],
  differs: ['Measured in the attic.'],
});

describe('recorders elsewhere: probes and proofs', function () {
  let redis: TestRedis;
  let server: TestServer;
  let store: Store;
  let token: string;
  let capture: { readonly id: number; readonly siteId: number; readonly sweepId: number };
  let group = '';
  const recorders: Recorder[] = [];
  before(async function () {
    if (!hasRedis) return this.skip();
    redis = await startRedis();
    server = await startServer({ KEEN_LENS_QUEUE: redis.address });
    store = await openStore(server.data);
    token = await recorderToken(store);
    const page =
      '<!doctype html><html lang="en"><title>Ferns</title><script src="/js/head.js"></script><h1>Ferns</h1></html>';
    const loads = [
      { url: PAGE, body: page, protocol: 'http/1.1' },
      { url: `${PAGE}js/head.js`, body: 'var kept = 1;'.repeat(8000), start: 30, protocol: 'http/1.1' },
    ];
    const bytes = bytesOf(har(loads, { hero: { timeMs: 400, size: 9000, tag: 'h1' } }));
    const stored = await askApi<{ captures: { id: number; siteId: number; sweepId: number }[] }>(
      `${server.url}/api/captures`,
      'POST',
      bytes,
    );
    capture = stored.value.captures[0] as typeof capture;
    const overview = await askApi<{ groups: { id: string; kind: string }[] }>(
      `${server.url}/api/sweeps/${capture.sweepId}/overview?device=phone`,
    );
    group = overview.value.groups.find((g) => g.kind === 'script-defer')?.id ?? '';
  });
  after(async () => {
    if (!hasRedis) return;
    await store.destroy();
    await server.stop();
    await redis.stop();
  });
  afterEach(async () => {
    await Promise.all(recorders.splice(0).map((r) => r.end()));
    // Nothing is left of a task, whatever became of it.
    expect(await store.selectFrom('remote_tasks').selectAll().execute()).to.deep.equal([]);
    const folder = path.join(server.data, 'remote-tasks');
    expect(fs.existsSync(folder) ? fs.readdirSync(folder) : []).to.deep.equal([]);
  });
  const start = async (task: RecorderOptions['task'], more: Partial<RecorderOptions> = {}) => {
    const at = { queue: redis.address, server: server.url, token, name: `recorder-${recorders.length}` };
    recorders.push(await madeRecorder({ ...at, task, ...more }));
  };
  const until = async (id: number, is: (job: Waiting) => boolean): Promise<void> => {
    while (!is((await askApi<Waiting>(`${server.url}/api/jobs/${id}`)).value))
      await new Promise((done) => setImmediate(done));
  };
  const prove = async (link?: string): Promise<number> => {
    const { status, value } = await askApi<{ id: number }>(`${server.url}/api/sites/${capture.siteId}/proofs`, 'POST', {
      sweep: capture.sweepId,
      groups: [group],
      visitor: 'screen=400x860@2.5,touch,rtt=10,down=50000,up=20000,cpu=1',
      runs: 3,
      link,
      captures: [capture.id],
    });
    expect(status, JSON.stringify(value)).to.equal(202);
    return value.id;
  };
  const proofOf = async (job: number) => {
    const row = await store.selectFrom('proofs').select('id').where('job_id', '=', job).executeTakeFirst();
    return (await askApi<ProofRow>(`${server.url}/api/proofs/${row?.id}`)).value.proof;
  };

  it('probe a site from where they stand, and hand in what they found', async () => {
    const site = http.createServer((request, response) => {
      if (request.url === '/old') response.writeHead(301, { location: '/' });
      response.end('<!doctype html><title>Ferns</title>');
    });
    await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
    const home = `http://127.0.0.1:${(site.address() as AddressInfo).port}/`;
    try {
      const row = await addSite(store, 'Ferns', home);
      const secret = { name: 'X-Key', value: 'fern-secret' };
      const settings = { ...defaultSettings(home), allowPrivate: true, headers: [secret] };
      const { id } = await startProbe(store, row, null, settings);
      await until(id, (j) => j.progress?.waiting === 'no recorder is connected');
      const files = fs.readdirSync(path.join(server.data, 'remote-tasks'));
      expect(files).to.have.length(1);
      expect(fs.readFileSync(path.join(server.data, 'remote-tasks', files[0] ?? ''), 'latin1')).not.to.contain(
        secret.value,
      );
      await start((work) => doRemoteTask(work, { ownPorts: [], signal: new AbortController().signal }));
      const job = await jobEnd(server.url, id);
      expect(job.state, JSON.stringify(job.error)).to.equal('done');
      const probe = await lastProbe(store, row.id);
      const entrance = probe?.entrances.find((e) => e.from === home);
      expect(entrance).to.deep.include({ from: home });
      expect(JSON.stringify(entrance)).to.contain('"status":200');
    } finally {
      site.close();
    }
  });

  it('prove fixes: they get the page with and without them, and what they measure is the proof', async () => {
    let plan: ReplayPlan | undefined;
    await start((work: TaskWork) => {
      if (work.kind === 'proof') plan = work.input;
      return Promise.resolve(madeRuns([900, 600]));
    });
    const id = await prove();
    const job = await jobEnd(server.url, id);
    expect(job.state, JSON.stringify(job.error)).to.equal('done');
    expect(Buffer.from(plan?.base[0]?.body ?? []).toString()).not.to.contain(' defer');
    expect(Buffer.from(plan?.fixed[0]?.body ?? []).toString()).to.contain(' defer');
    const proof = await proofOf(id);
    expect(proof.change.lcpMs.median).to.equal(-300);
    expect(proof.browser).to.equal('Chromium made');
    expect(proof.differs).to.include('Measured in the attic.');
  });

  it('leave a proof over a link of the system to a recorder that makes such links', async () => {
    const asked: string[] = [];
    const named = (name: string) => () => {
      asked.push(name);
      return Promise.resolve({ ...madeRuns([900, 700]), way: 'namespaces' as const });
    };
    await start(named('without'));
    const id = await prove('namespaces');
    await until(id, (j) => /links of its own/.test(j.progress?.waiting ?? ''));
    await start(named('with'), { rootLink: true });
    expect((await jobEnd(server.url, id)).state).to.equal('done');
    expect(asked).to.deep.equal(['with']);
  });

  it('say why something cannot be done, and hand in nothing that is of another shape', async () => {
    await start(() => Promise.reject(new PageError('The replayed page shows nothing.', PAGE, 'Record it anew.')));
    const first = await jobEnd(server.url, await prove());
    expect(first).to.deep.include({ state: 'failed' });
    expect(first.error?.what).to.equal('The replayed page shows nothing. Record it anew.');
    await recorders.splice(0)[0]?.end();
    await start(() => Promise.resolve({ before: 'many' }));
    const second = await jobEnd(server.url, await prove());
    expect(second.error?.what).to.match(/^The result of a recorder is no proof: /);
  });

  it('take a task back that its job does not want any more', async () => {
    const id = await prove();
    await until(id, (j) => j.progress?.waiting === undefined || j.progress.waiting !== '');
    await askApi(`${server.url}/api/jobs/${id}`, 'POST', { action: 'cancel' });
    expect((await jobEnd(server.url, id)).state).to.equal('cancelled');
    let begun = 0;
    await start(() => {
      begun++;
      return Promise.resolve(madeRuns([900, 600]));
    });
    const next = await prove();
    expect((await jobEnd(server.url, next)).state).to.equal('done');
    expect(begun).to.equal(1);
  });
});
