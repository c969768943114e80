import { expect } from 'chai';
import { PageError } from '../../../src/core/capture/errors';
import type { Recorder } from '../../../src/engine/fleet/recorder';
import { addToken } from '../../../src/engine/store/fleet/tokens';
import { openStore, type Store } from '../../../src/engine/store/store';
import { madeHar, madeRecorder, moreToRecord, recorderToken, siteToRecord } from '../../fixtures/fleet';
import { askApi, jobEnd } from '../../fixtures/jobs';
import { hasRedis, startRedis, type TestRedis } from '../../fixtures/redis';
import { startServer, type TestServer } from '../../fixtures/server';

interface JobWithRecordings {
  readonly state: string;
  readonly progress?: { readonly waiting?: string; readonly now: readonly string[] };
  readonly recordings: readonly { url: string; state: string; captureId: number | null; error: string | null }[];
}

describe('recorders elsewhere', function () {
  let redis: TestRedis;
  let server: TestServer;
  let store: Store;
  let token: string;
  const recorders: Recorder[] = [];
  before(async function () {
    if (!hasRedis) return this.skip();
    redis = await startRedis();
    server = await startServer({ KEEN_LENS_QUEUE: redis.address });
    store = await openStore(server.data);
    token = await recorderToken(store);
  });
  after(async () => {
    if (!hasRedis) return;
    await store.destroy();
    await server.stop();
    await redis.stop();
  });
  afterEach(async () => {
    await Promise.all(recorders.splice(0).map((r) => r.end()));
  });
  const at = () => ({ queue: redis.address, server: server.url, token });
  const start = async (...given: Parameters<typeof madeRecorder> extends [unknown, ...infer R] ? R : never) => {
    const recorder = await madeRecorder({ ...at(), name: `recorder-${recorders.length}` }, ...given);
    recorders.push(recorder);
    return recorder;
  };
  const job = async (id: number) => (await askApi<JobWithRecordings>(`${server.url}/api/jobs/${id}`)).value;
  const until = async (id: number, is: (job: JobWithRecordings) => boolean): Promise<JobWithRecordings> => {
    for (;;) {
      const now = await job(id);
      if (is(now)) return now;
      await new Promise((done) => setImmediate(done));
    }
  };

  it('say that none is there, then make every recording once and hand it in', async () => {
    const { jobId, sweepId } = await siteToRecord(store, 'one.fernhollow.example', 5, 2);
    await until(jobId, (j) => j.progress?.waiting === 'no recorder is connected');
    await start();
    await start();
    expect((await jobEnd(server.url, jobId)).state).to.equal('done');
    const { recordings } = await job(jobId);
    expect(recordings.map((r) => r.state)).to.deep.equal(Array(5).fill('done'));
    const captures = await store.selectFrom('captures').select('id').where('sweep_id', '=', sweepId).execute();
    expect(captures.map((c) => c.id)).to.have.members(recordings.map((r) => r.captureId));
    const { value } = await askApi<{ recorders: { name: string; done: number; region: string }[]; hasQueue: boolean }>(
      `${server.url}/api/recorders`,
    );
    expect(value.hasQueue).to.equal(true);
    expect(value.recorders.reduce((n, r) => n + r.done, 0)).to.equal(5);
    expect(value.recorders[0]?.region).to.equal('garden');
  });

  it('ask a host for no more pages at a time than its settings allow, over all jobs and recorders', async () => {
    let open = 0;
    let most = 0;
    const record = async (work: { url: string }) => {
      most = Math.max(most, ++open);
      await new Promise((done) => setTimeout(done, 60));
      open--;
      return madeHar(work.url);
    };
    for (let n = 0; n < 4; n++) await start(record);
    const first = await siteToRecord(store, 'two.fernhollow.example', 5, 2);
    const second = await moreToRecord(store, first, 'https://two.fernhollow.example/', 5, 2);
    await jobEnd(server.url, first.jobId);
    await jobEnd(server.url, second);
    expect(most).to.equal(2);
  });

  it('note a page that cannot be recorded, try again what breaks off, and go on', async () => {
    const tries = new Map<string, number>();
    const { jobId } = await siteToRecord(store, 'three.fernhollow.example', 2, 2);
    await start((work) => {
      const n = (tries.get(work.url) ?? 0) + 1;
      tries.set(work.url, n);
      if (work.url.endsWith('page-1/'))
        throw new PageError('The page could not be opened: ERR_TEST.', work.url, 'Try it.');
      if (n === 1) throw new Error('the browser went away');
      return Promise.resolve(madeHar(work.url));
    });
    await jobEnd(server.url, jobId);
    const { recordings } = await job(jobId);
    expect(recordings[0]).to.include({ state: 'failed', error: 'The page could not be opened: ERR_TEST. Try it.' });
    expect(recordings[1]?.state).to.equal('done');
    expect([...tries.values()]).to.have.members([1, 2]);
  });

  it('lose nothing when the queue loses everything, or the job is paused', async () => {
    const { jobId } = await siteToRecord(store, 'four.fernhollow.example', 4, 2);
    await until(jobId, (j) => (j.progress?.now.length ?? 0) === 2);
    await redis.kill();
    await until(jobId, (j) => j.progress?.waiting === 'the queue cannot be reached');
    await redis.start();
    await until(jobId, (j) => j.progress?.waiting !== 'the queue cannot be reached');
    await askApi(`${server.url}/api/jobs/${jobId}`, 'POST', { action: 'pause' });
    await until(jobId, (j) => j.state === 'paused');
    await askApi(`${server.url}/api/jobs/${jobId}`, 'POST', { action: 'resume' });
    await start();
    await jobEnd(server.url, jobId);
    expect((await job(jobId)).recordings.map((r) => r.state)).to.deep.equal(Array(4).fill('done'));
  });

  it('may hand in what nobody waits for: it is refused, and nothing is stored', async () => {
    const ask = (method: string, body?: string) =>
      fetch(`${server.url}/api/recorders/work/99999`, {
        method,
        body,
        headers: { authorization: `Bearer ${token}`, 'x-recorder': 'attic' },
      });
    expect((await ask('GET')).status).to.equal(410);
    expect((await ask('PUT', '{}')).status).to.equal(410);
    expect((await ask('POST', '{"fault":"x"}')).status).to.equal(410);
  });

  it('need a token for recorders, which opens nothing else', async () => {
    const with_ = (bearer: string | undefined, path: string, method = 'GET') =>
      fetch(server.url + path, { method, headers: bearer ? { authorization: `Bearer ${bearer}` } : {} });
    expect((await with_(undefined, '/api/recorders/work/1')).status).to.equal(403);
    expect((await with_('kl_wrong', '/api/recorders/work/1')).status).to.equal(401);
    expect((await with_(token, '/api/sites')).status).to.equal(403);
    const reading = await addToken(store, { name: 'r', scope: 'read', accountId: null });
    expect((await with_(reading.token, '/api/sites')).status).to.equal(200);
    expect((await with_(reading.token, '/api/demo', 'POST')).status).to.equal(403);
    expect((await with_(reading.token, '/api/recorders/work/1')).status).to.equal(403);
    await store.deleteFrom('api_tokens').where('name', '=', 'r').execute();
    expect((await with_(reading.token, '/api/sites')).status).to.equal(401);
  });

  it('are refused at once with a wrong token', async () => {
    let said = '';
    await madeRecorder({ ...at(), token: 'kl_wrong' }).catch((error: Error) => (said = error.message));
    expect(said).to.contain('The server does not take this token.');
  });
});
