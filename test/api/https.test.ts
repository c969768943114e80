import { expect } from 'chai';
import type { ListedEntrances } from '../../src/core/site/listedEntrances';
import type { StepProof } from '../../src/core/move/steps';
import type { Coverage } from '../../src/engine/store/coverage';
import type { FateRow } from '../../src/core/site/fates';
import type { MoveReport } from '../../src/engine/services/moveFiles';
import type { JobRow } from '../../src/engine/store/jobs';
import type { ListSummary } from '../../src/engine/store/lists';
import type { SiteProbe } from '../../src/engine/store/probes';
import { HALF_HOME, serveHalfMoved, type HalfMoved } from '../fixtures/halfMoved';
import { allJobsEnd, askApi, jobEnd } from '../fixtures/jobs';
import { startServer, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

describe('api of HTTPS coverage', function () {
  this.timeout(180_000);
  const temp = tempFolder('https-api');
  let server: TestServer;
  let half: HalfMoved;
  let site = '';
  let sweepId = 0;
  const get = async <T>(route: string) => (await askApi<T>(server.url + route)).value;
  const upload = (route: string, name: string, content: string | Uint8Array) =>
    fetch(server.url + route, { method: 'POST', headers: { 'x-file-name': name }, body: content as BodyInit });

  before(async () => {
    half = await serveHalfMoved(temp.folder);
    server = await startServer({ NODE_EXTRA_CA_CERTS: half.rootFile });
    const { value } = await askApi<{ id: number }>(`${server.url}/api/sites`, 'POST', { home: HALF_HOME });
    site = `/api/sites/${value.id}`;
  });
  after(async () => {
    await server.stop();
    await half.close();
    temp.remove();
  });

  it('says what is missing before anybody has asked', async () => {
    expect(await get(`${site}/entrances`)).to.deep.equal({ probe: null, times: [] });
    const rules = await askApi<{ error: { next: string } }>(`${server.url}${site}/rules?server=nginx`);
    expect(rules.status).to.equal(400);
    expect(rules.value.error.next).to.contain('Probe them first');
    expect((await askApi(`${server.url}/api/sites/99/entrances`)).status).to.equal(404);
    expect((await askApi(`${server.url}/api/sweeps/99/coverage`)).status).to.equal(404);
  });

  it('asks for every way in at the end of a sweep', async () => {
    await askApi(`${server.url}${site}/settings`, 'PUT', {
      perSecond: 0,
      mapHosts: half.map,
      sitemaps: false,
      captures: { maxPages: 0 },
      entrances: { hosts: [], perTemplate: 2, withSweep: true, outsideLinks: true },
    });
    const started = await askApi<JobRow>(`${server.url}${site}/sweeps`, 'POST', {});
    const job = await jobEnd(server.url, started.value.id);
    expect(job.state, job.error?.what).to.equal('done');
    sweepId = job.sweepId ?? 0;
    const { probe } = await get<{ probe: SiteProbe }>(`${site}/entrances`);
    const verdicts = Object.fromEntries(
      probe.entrances.filter((e) => e.why === 'entrance').map((e) => [e.from, e.verdict]),
    );
    // The page names its http form as canonical, which is no secure address.
    expect(verdicts).to.deep.equal({
      'http://half.example/': 'duplicate',
      'https://half.example/': 'duplicate',
      'http://www.half.example/': 'duplicate',
      'https://www.half.example/': 'direct',
    });
    const listed = await get<{ probe: ListedEntrances }>(`${site}/entrances?rows=1&verdict=direct`);
    expect(listed.probe.deep.addresses).to.equal(probe.entrances.length - 4);
    expect(listed.probe.verdicts.reduce((n, v) => n + v.addresses, 0)).to.equal(probe.entrances.length);
    expect(listed.probe.entrances.length).to.be.within(4, 5);
    expect((await askApi(`${server.url}${site}/entrances?rows=none`)).status).to.equal(400);
    expect((await askApi(`${server.url}${site}/entrances?rows=9&verdict=odd`)).status).to.equal(400);
    expect(probe.certificates.map((c) => [c.host, c.faults])).to.have.deep.members([
      ['half.example', []],
      ['www.half.example', []],
    ]);
    expect(probe.versions.map((v) => [v.url, v.verdict])).to.deep.equal([
      ['http://www.half.example/fern.svg', 'same bytes'],
    ]);
    // The site answers over http too, so each page is there twice.
    expect(probe.harmlessLinks).to.equal(6);
    expect(probe.outsideLinks?.map((l) => [l.url, l.links, l.secure])).to.deep.equal([
      ['http://growers.example/moss/', 2, true],
      ['http://private.example/garden/', 2, undefined],
      ['http://quiet.example/', 2, false],
    ]);
  });

  it('gives every known address one state; they add up and each opens its list', async () => {
    const coverage = await get<Coverage>(`/api/sweeps/${sweepId}/coverage`);
    const sum = Object.values(coverage.counts).reduce((a, b) => a + b, 0);
    expect(sum).to.equal(coverage.total);
    expect(coverage.groups.reduce((n, g) => n + Object.values(g.counts).reduce((a, b) => a + b, 0), 0)).to.equal(sum);
    expect(coverage.counts['http-too'] + coverage.counts['insecure-content']).to.be.greaterThan(0);
    for (const [state, count] of Object.entries(coverage.counts)) {
      const list = await get<{ total: number }>(`/api/sweeps/${sweepId}/coverage?list=addresses&state=${state}`);
      expect(list.total, state).to.equal(count);
    }
    const csv = await get<string>(`/api/sweeps/${sweepId}/coverage?format=csv`);
    expect(csv.trim().split('\r\n')).to.have.length(sum + 1);
    expect((await askApi(`${server.url}/api/sweeps/${sweepId}/coverage?state=odd&list=addresses`)).status).to.equal(
      400,
    );
  });

  it('reads lists, asks for their addresses, and gives them as rows, CSV and XLSX', async () => {
    const before =
      'Page;Clicks;Position\nhttp://www.half.example/;1.200;3,5\nhttp://www.half.example/gone-visit/;90;4,0\n';
    const after =
      'Page;Clicks;Position\nhttps://www.half.example/;1.100;3,6\nhttps://www.half.example/gone-visit/;5;12,0\n';
    for (const [name, text] of [
      ['before.csv', before],
      ['after.csv', after],
    ] as const)
      expect((await upload(`${site}/lists`, name, text)).status).to.equal(201);
    await allJobsEnd(server.url);
    const lists = await get<ListSummary[]>(`${site}/lists`);
    expect(lists.map((l) => [l.name, l.rows, l.clicks])).to.deep.equal([
      ['after.csv', 2, 1105],
      ['before.csv', 2, 1290],
    ]);
    const [second, first] = lists.map((l) => l.id);
    const fates = await get<{ rows: FateRow[] }>(`${site}/lists/${first}?fate=missing`);
    expect(fates.rows.map((r) => [r.address, r.nearest?.url])).to.deep.equal([
      ['http://www.half.example/gone-visit/', 'http://half.example/visit/'],
    ]);
    const csv = await get<string>(`${site}/lists/${first}?format=csv`);
    expect(csv.split('\r\n')).to.have.length(4);
    const xlsx = await fetch(`${server.url}${site}/lists/${first}?format=xlsx`);
    expect(
      Buffer.from(await xlsx.arrayBuffer())
        .subarray(0, 2)
        .toString(),
    ).to.equal('PK');
    const compared = await get<{ total: { before: { clicks: number } }; pages: { name: string; fate: string }[] }>(
      `${site}/lists/compare?before=${first}&after=${second}`,
    );
    expect(compared.total.before.clicks).to.equal(1290);
    expect(compared.pages[0]).to.include({ name: 'half.example/', fate: 'direct' });
    // Clicks count as visits from now on.
    expect((await get<{ clicksOf?: string }>(`/api/sweeps/${sweepId}/overview`)).clicksOf).to.equal('after.csv');
    const bad = await upload(`${site}/lists`, 'none.csv', 'nothing\n');
    expect(bad.status).to.equal(400);
    expect(((await bad.json()) as { error: { what: string } }).error.what).to.contain('no address');
  });

  it('writes rules for what was found, and refuses what hides a fault', async () => {
    const { value } = await askApi<{ text: string; refused: { from: string }[] }>(
      `${server.url}${site}/rules`,
      'POST',
      {
        server: 'nginx',
        chosen: [
          { from: '/gone-visit/', to: '/visit/' },
          { from: '/other/', to: '/' },
        ],
      },
    );
    expect(value.text).to.contain('rewrite "^/gone-visit/$" "https://www.half.example/visit/" permanent;');
    expect(value.refused.map((r) => r.from)).to.deep.equal(['/other/']);
    const file = await fetch(`${server.url}${site}/rules?server=apache`);
    expect(file.headers.get('content-disposition')).to.contain('redirects.htaccess');
    expect((await askApi(`${server.url}${site}/rules?server=word`)).status).to.equal(400);
  });

  it('plans the move, runs it on the files, and sees that it was carried out', async () => {
    const steps = async () =>
      Object.fromEntries(
        (await get<{ steps: { id: string; proof: StepProof | null }[] }>(`${site}/move`)).steps.map((s) => [
          s.id,
          s.proof?.holds,
        ]),
      );
    expect(await steps()).to.include({ certificate: true, entrances: false, names: false, 'third-parties': true });
    const note = { step: 'certificate', state: 'done', owner: 'Ines', due: '2026-12-01', note: '' };
    expect((await askApi(`${server.url}${site}/move`, 'PUT', note)).status).to.equal(200);
    expect((await askApi(`${server.url}${site}/move`, 'PUT', { ...note, due: 'soon' })).status).to.equal(400);
    const run = async (dry: 'yes' | 'no') => {
      const started = (await (await upload(`${site}/move/files?dry=${dry}`, 'half.zip', half.zip)).json()) as JobRow;
      expect((await jobEnd(server.url, started.id)).state).to.equal('done');
      return { id: started.id, report: await get<MoveReport>(`/api/jobs/${started.id}/move`) };
    };
    const dry = await run('yes');
    expect(dry.report).to.include({ dryRun: true, out: null });
    expect(dry.report.totals.changes).to.equal(4);
    expect((await askApi(`${server.url}/api/jobs/${dry.id}/move?file=copy`)).status).to.equal(404);
    const real = await run('no');
    const copy = new Uint8Array(await (await fetch(`${server.url}/api/jobs/${real.id}/move?file=copy`)).arrayBuffer());
    expect(await get<string>(`/api/jobs/${real.id}/move?file=patch`)).to.contain('+++ b/index.html');
    half.move(copy);
    const sweep = await askApi<JobRow>(`${server.url}${site}/sweeps`, 'POST', {});
    expect((await jobEnd(server.url, sweep.value.id)).state).to.equal('done');
    expect(await steps()).to.include({ entrances: true, deep: true, content: true, names: true, hsts: true });
    const again = await get<Coverage>(`/api/sweeps/${(await jobEnd(server.url, sweep.value.id)).sweepId}/coverage`);
    expect(again.counts).to.include({ clean: 3, redirects: 1, 'http-too': 0, 'http-only': 0 });
    const map = await fetch(`${server.url}${site}/move/sitemap`);
    expect((await map.text()).match(/<loc>https:/g)).to.have.length(3);
  });

  it('deletes a list with its rows', async () => {
    const [last] = await get<ListSummary[]>(`${site}/lists`);
    expect((await askApi(`${server.url}${site}/lists/${last?.id}`, 'DELETE')).status).to.equal(204);
    expect((await askApi(`${server.url}${site}/lists/${last?.id}`, 'DELETE')).status).to.equal(404);
    expect(await get<ListSummary[]>(`${site}/lists`)).to.have.length(1);
  });
});
