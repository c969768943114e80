import { expect } from 'chai';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import type { FixGroup } from '../../src/core/plan/staircase';
import type { ProofsAnswer } from '../../src/islands/proofs/proofsPath';
import type { JobRow } from '../../src/engine/store/jobs';
import type { OutcomeRow } from '../../src/engine/store/outcomes';
import type { ProofStory } from '../../src/core/proof/measuredLoad';
import type { ProofPictures, ProofRow } from '../../src/engine/store/proofs';
import { bytesOf, har, PAGE } from '../fixtures/har';
import { askApi, jobEnd } from '../fixtures/jobs';
import { startServer, type TestServer } from '../fixtures/server';

const FAST = 'screen=400x860@2.5,touch,rtt=10,down=50000,up=20000,cpu=1';
const SCRIPT = 'var kept = 1;'.repeat(8000);

interface Wrong {
  readonly error: { readonly what: string; readonly where: string; readonly next: string };
}

/** A page whose head script blocks it; `base` is where it is. */
const page = (base: string, defer = '') =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Plant sale</title><script${defer} src="${base}js/head.js"></script></head><body><h1>Plant sale</h1><p>Ferns, mosses and seeds.</p></body></html>`;

const captureOf = (base: string) =>
  bytesOf(
    har(
      [
        { url: base, body: page(base), protocol: 'http/1.1' },
        { url: `${base}js/head.js`, body: SCRIPT, start: 30, protocol: 'http/1.1' },
      ],
      { hero: { timeMs: 400, size: 9000, tag: 'h1' } },
    ),
  );

describe('api: proofs and outcomes', function () {
  this.timeout(240_000);
  let server: TestServer;
  let site = 0;
  let sweep = 0;
  let captureId = 0;
  let group = '';
  const call = <T>(method: string, route: string, body?: unknown) => askApi<T>(server.url + route, method, body);
  const upload = async (bytes: Uint8Array, name: string) => {
    const response = await fetch(`${server.url}/api/captures`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream', 'x-file-name': name },
      body: bytes as never,
    });
    expect(response.status, name).to.equal(201);
    const { captures } = (await response.json()) as {
      captures: { id: number; siteId: number; sweepId: number }[];
    };
    return captures[0] as (typeof captures)[number];
  };
  const groupsOf = async (sweepId: number) => {
    const { value } = await call<{ groups: FixGroup[] }>('GET', `/api/sweeps/${sweepId}/overview?device=phone`);
    return value.groups;
  };

  before(async () => {
    server = await startServer();
    const row = await upload(captureOf(PAGE), 'garden.har');
    [site, sweep, captureId] = [row.siteId, row.sweepId, row.id];
    group = (await groupsOf(sweep)).find((g) => g.id.startsWith('script-defer'))?.id ?? '';
  });
  after(() => server.stop());

  it('knows no proof at first', async () => {
    const { value } = await call<ProofsAnswer>('GET', `/api/sites/${site}/proofs`);
    expect(value.proofs).to.deep.equal([]);
    expect(value.trust).to.include({ proofs: 0, factor: 1 });
    expect((await call('GET', '/api/sites/99/proofs')).status).to.equal(404);
    expect((await call('GET', '/api/proofs/99')).status).to.equal(404);
  });

  it('refuses what cannot be proved, and says why', async () => {
    const ask = async (more: object) =>
      (
        await call<Wrong>('POST', `/api/sites/${site}/proofs`, {
          sweep,
          captures: [captureId],
          groups: [group],
          visitor: FAST,
          ...more,
        })
      ).value.error.what;
    expect(await ask({ groups: [] })).to.match(/at least one fix/);
    expect(await ask({ captures: [] })).to.match(/at least one page/);
    expect(await ask({ captures: [99] })).to.match(/None of these pages/);
    expect(await ask({ groups: ['hero-eager|hero'] })).to.match(/None of these pages/);
    expect(await ask({ sweep: 99 })).to.match(/no such sweep/);
    expect(await ask({ visitor: 'nobody' })).to.match(/no visitor/);
  });

  it('proves a fix as a job, keeps what it found with its pictures, and deletes it', async () => {
    const started = await call<JobRow>('POST', `/api/sites/${site}/proofs`, {
      sweep,
      captures: [captureId],
      groups: [group],
      visitor: FAST,
      visitorName: 'Somebody at a desk',
      runs: 3,
      link: 'userspace',
    });
    expect(started.status).to.equal(202);
    const job = await jobEnd(server.url, started.value.id);
    expect(job.state, JSON.stringify(job.error)).to.equal('done');
    const { proofs, trust } = (await call<ProofsAnswer>('GET', `/api/sites/${site}/proofs`)).value;
    expect(proofs[0]).to.include({ captureId, visitorName: 'Somebody at a desk', breaks: false, newErrors: 0 });
    expect(trust).to.include({ proofs: 1, factor: 1 });
    const id = proofs[0]?.id ?? 0;
    const { proof, pictures } = (await call<ProofRow & { pictures: ProofPictures }>('GET', `/api/proofs/${id}`)).value;
    expect(proof.runs).to.equal(3);
    expect(proof.before.lcpMs.values).to.have.length(3);
    expect(proof.unanswered).to.deep.equal([]);
    expect(proof.firstScreenAlike).to.be.above(0.98);
    expect(pictures.film.before.length).to.be.above(0);
    const at = `${server.url}/api/proofs/${id}/pictures/`;
    expect((await fetch(at + pictures.screens.after)).headers.get('content-type')).to.equal('image/png');
    expect((await fetch(at + pictures.film.after[0]?.name)).headers.get('content-type')).to.equal('image/jpeg');
    expect((await fetch(`${at}..%2F..%2Fkeen-lens.db`)).status).to.equal(404);
    expect(pictures.loads).to.equal(true);
    const { before, after } = (await call<ProofStory>('GET', `/api/proofs/${id}/story`)).value;
    for (const side of [before, after]) {
      const times = side.graph.fetches.map((f, i) => ({ url: f.url, ...side.measured.fetches[i] }));
      // Whatever the page has was asked for, in order and within the load.
      for (const t of times) {
        expect(t.foundMs, t.url).to.be.within(0, t.sentMs as number);
        expect(t.sentMs, t.url).to.be.at.most(t.firstByteMs as number);
        expect(t.firstByteMs, t.url).to.be.at.most((t.endMs as number) + 1);
      }
    }
    expect(proof.before.lcpMs.values).to.include(Math.round(before.measured.milestones.lcpMs * 10) / 10);
    expect(after.forecast.milestones.lcpMs).to.be.below(before.forecast.milestones.lcpMs);
    expect((await call('GET', '/api/proofs/99/story')).status).to.equal(404);
    expect((await call('DELETE', `/api/proofs/${id}`)).status).to.equal(204);
    expect((await fetch(at + pictures.screens.after)).status).to.equal(404);
  });

  it('cancels a proof, and keeps nothing of it', async () => {
    const started = await call<JobRow>('POST', `/api/sites/${site}/proofs`, {
      sweep,
      captures: [captureId],
      groups: [group],
      visitor: FAST,
      runs: 15,
    });
    await call('POST', `/api/jobs/${started.value.id}`, { action: 'cancel' });
    expect((await jobEnd(server.url, started.value.id)).state).to.equal('cancelled');
    expect((await call<ProofsAnswer>('GET', `/api/sites/${site}/proofs`)).value.proofs).to.deep.equal([]);
  });

  describe('outcomes', () => {
    let own: http.Server;
    let base = '';
    let defer = '';
    before(async () => {
      own = http.createServer((request, response) => {
        const script = request.url === '/js/head.js';
        const known = script || request.url === '/';
        response.writeHead(known ? 200 : 404, { 'content-type': script ? 'text/javascript' : 'text/html' });
        response.end(script ? SCRIPT : known ? page(base, defer) : '');
      });
      await new Promise<void>((done) => own.listen(0, '127.0.0.1', done));
      base = `http://127.0.0.1:${(own.address() as AddressInfo).port}/`;
    });
    after(() => own.close());

    it('looks at done fixes at once, and says what is gone, what is not, and whether the promise was kept', async () => {
      const row = await upload(captureOf(base), 'own.har');
      await call('PUT', `/api/sites/${row.siteId}/settings`, { allowPrivate: true });
      const found = (await groupsOf(row.sweepId)).find((g) => g.id.startsWith('script-defer'));
      const content = {
        name: 'Spring',
        visitor: 'phone-busy',
        fixes: [{ group: found?.id, title: found?.title, state: 'open' }],
      };
      const plan = (await call<{ id: number }>('POST', `/api/sites/${row.siteId}/plans`, content)).value;
      const at = `/api/sites/${row.siteId}/plans/${plan.id}`;
      const check = () => call<JobRow & Wrong>('POST', `${at}/outcomes`, { sweep: row.sweepId });
      expect((await check()).value.error.what).to.match(/No fix of this plan is said to be done/);
      await call('PUT', at, { ...content, fixes: content.fixes.map((f) => ({ ...f, state: 'done' })) });
      const look = async () => {
        const job = await jobEnd(server.url, (await check()).value.id);
        expect(job.state, JSON.stringify(job.error)).to.equal('done');
        return (await call<OutcomeRow[]>('GET', `${at}/outcomes`)).value[0]?.outcome.fixes[0];
      };
      expect(await look()).to.include({ verdict: 'not done', gone: 0 });
      defer = ' defer';
      const kept = await look();
      expect(kept?.gone).to.equal(1);
      expect(kept?.still).to.deep.equal([]);
      expect(kept?.verdict).to.be.oneOf(['kept', 'more', 'less']);
      defer = '';
      expect(await look()).to.include({ verdict: 'came back' });
      expect((await call<OutcomeRow[]>('GET', `${at}/outcomes`)).value).to.have.length(3);
      expect((await call('GET', `/api/sites/${row.siteId}/plans/99/outcomes`)).status).to.equal(404);
    });
  });
});
