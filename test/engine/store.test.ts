import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { InputError } from '../../src/core/capture/errors';
import { importHar, unpackFile } from '../../src/engine/services/importHar';
import { viewCapture } from '../../src/engine/services/captureView';
import { summariseSites } from '../../src/engine/services/summariseSites';
import { getBody, putBody } from '../../src/engine/store/bodies';
import { getCapture, listCaptures } from '../../src/engine/store/captures';
import { listFindings } from '../../src/engine/store/findings';
import { deleteSite, listSites } from '../../src/engine/store/sites';
import { openStore, type Store } from '../../src/engine/store/store';
import { listSweeps } from '../../src/engine/store/sweeps';
import { VISITORS } from '../../src/core/load/visitors';
import { bytesOf, entry, har, PAGE } from '../fixtures/har';
import { tempFolder } from '../fixtures/temp';

const html =
  '<!doctype html><title>x</title><body><img src="http://a.example/x.jpg"><a href="http://www.fernhollow.example/b">b</a>';

describe('engine/store and importHar', () => {
  const temp = tempFolder('store');
  let store: Store;
  beforeEach(async () => {
    fs.rmSync(path.join(temp.folder, 'db'), { recursive: true, force: true });
    store = await openStore(path.join(temp.folder, 'db'));
  });
  afterEach(() => store.destroy());
  after(temp.remove);

  const rows = async () => {
    const counts: Record<string, number> = {};
    for (const table of ['sites', 'sweeps', 'captures', 'findings', 'bodies'] as const) {
      const { n } = await store
        .selectFrom(table)
        .select((e) => e.fn.countAll<number>().as('n'))
        .executeTakeFirstOrThrow();
      counts[table] = n;
    }
    return counts;
  };

  it('keeps captures, findings and bodies, and reads them back', async () => {
    const result = await importHar(
      store,
      bytesOf(
        har([
          { url: PAGE, body: html },
          { url: PAGE + 'a.css', body: 'p{}' },
        ]),
      ),
      'a.har',
    );
    expect(result.captures).to.have.length(1);
    const full = await getCapture(store, result.captures[0]?.id ?? 0);
    expect(full?.capture.loads).to.have.length(2);
    expect(full?.findings.map((f) => f.check)).to.include.members(['mixed-markup', 'http-mention']);
    const hash = full?.capture.loads[1]?.bodyHash ?? '';
    expect(new TextDecoder().decode(await getBody(store, hash))).to.equal('p{}');
    const view = await viewCapture(store, full?.row.id ?? 0);
    expect(view?.source).to.equal(html);
    expect(view?.fixes.find((f) => f.target === 'http://a.example/x.jpg')?.changes[0]?.after).to.contain(
      'https://a.example/x.jpg',
    );
  });

  it('stores equal bodies once', async () => {
    await importHar(
      store,
      bytesOf(
        har([
          { url: PAGE, body: html },
          { url: PAGE + 'a.css', body: 'p{}' },
          { url: PAGE + 'b.css', body: 'p{}' },
        ]),
      ),
      'a.har',
    );
    expect((await rows()).bodies).to.equal(2);
    expect(await putBody(store, new TextEncoder().encode('p{}'))).to.match(/^[0-9a-f]{64}$/);
    expect((await rows()).bodies).to.equal(2);
  });

  it('does not store the same file twice', async () => {
    const file = bytesOf(har([{ url: PAGE, body: html }]));
    await importHar(store, file, 'a.har');
    const before = await rows();
    expect((await importHar(store, file, 'again.har')).alreadyThere).to.equal(true);
    expect(await rows()).to.deep.equal(before);
  });

  it('stores nothing of a file of which one page is wrong', async () => {
    const file = har([{ url: PAGE, body: html }]) as { log: { pages: object[]; entries: object[] } };
    file.log.pages.push({ id: 'page_2', startedDateTime: '2026-11-12T11:00:00Z' });
    file.log.entries.push({ ...entry({ url: PAGE + 'b.css', body: 'p{}' }), pageref: 'page_2' });
    const error = await importHar(store, bytesOf(file), 'half.har').catch((e: unknown) => e);
    expect(error).to.be.instanceOf(InputError);
    expect(await rows()).to.deep.equal({ sites: 0, sweeps: 0, captures: 0, findings: 0, bodies: 0 });
  });

  it('puts pages of one site together, by day, and shows the latest of a page', async () => {
    await importHar(store, bytesOf(har([{ url: PAGE, body: html }])), 'a.har');
    await importHar(store, bytesOf(har([{ url: PAGE, body: html + ' ' }])), 'b.har');
    await importHar(store, bytesOf(har([{ url: 'https://tickets.fernhollow.example/book/', body: html }])), 'c.har');
    await importHar(store, bytesOf(har([{ url: 'https://mossbank.example/', body: html }])), 'd.har');
    const sites = await listSites(store);
    expect(sites.map((s) => s.name)).to.deep.equal(['fernhollow.example', 'mossbank.example']);
    const sweeps = await listSweeps(store, sites[0]?.id ?? 0);
    expect(sweeps).to.have.length(1);
    expect(await listCaptures(store, sweeps[0]?.id ?? 0)).to.have.length(2);
    const summary = await summariseSites(store, VISITORS[2] as (typeof VISITORS)[number]);
    expect(summary[0]).to.include({ pages: 2, cleanPages: 0 });
    expect(summary[0]?.heroMs).to.be.above(0);
  });

  it('pages, filters and sorts findings in SQL', async () => {
    const { captures } = await importHar(store, bytesOf(har([{ url: PAGE, body: html }])), 'a.har');
    const query = {
      sweepId: captures[0]?.sweepId ?? 0,
      device: captures[0]?.device ?? 'desktop',
      limit: 10,
      offset: 0,
    } as const;
    const all = await listFindings(store, query);
    expect(all.total).to.be.above(1);
    expect((await listFindings(store, { ...query, limit: 1, offset: 1 })).rows).to.have.length(1);
    expect(
      (await listFindings(store, { ...query, concern: 'mixed' })).rows.every((f) => f.concern === 'mixed'),
    ).to.equal(true);
    expect((await listFindings(store, { ...query, search: '100%_' })).total).to.equal(0);
    expect((await listFindings(store, { ...query, search: 'x.jpg' })).total).to.be.above(0);
    const titles = (await listFindings(store, { ...query, sort: 'title', descending: true })).rows.map((f) => f.title);
    expect(titles).to.deep.equal([...titles].sort().reverse());
  });

  it('deletes a site with all that hangs on it', async () => {
    await importHar(store, bytesOf(har([{ url: PAGE, body: html }])), 'a.har');
    expect(await deleteSite(store, (await listSites(store))[0]?.id ?? 0)).to.equal(true);
    expect(await rows()).to.deep.equal({ sites: 0, sweeps: 0, captures: 0, findings: 0, bodies: 0 });
    expect(await deleteSite(store, 99)).to.equal(false);
  });

  it('keeps bodies that another site uses when one is deleted', async () => {
    await importHar(store, bytesOf(har([{ url: PAGE, body: html }])), 'a.har');
    await importHar(store, bytesOf(har([{ url: 'https://mossbank.example/', body: html }])), 'b.har');
    await deleteSite(store, (await listSites(store)).find((s) => s.name === 'fernhollow.example')?.id ?? 0);
    expect(await rows()).to.include({ sites: 1, captures: 1, bodies: 1 });
  });

  it('unpacks gzip, and says so when it is cut short', () => {
    const packed = zlib.gzipSync('{"log":1}');
    expect(new TextDecoder().decode(unpackFile(packed, 'a.har.gz'))).to.equal('{"log":1}');
    expect(() => unpackFile(packed.subarray(0, 15), 'a.har.gz')).to.throw(InputError, /cannot be unpacked/);
  });

  it('says what to do when the data folder cannot be used', async () => {
    const file = path.join(temp.folder, 'a-file');
    fs.writeFileSync(file, '');
    const error = await openStore(path.join(file, 'below')).catch((e: unknown) => e);
    expect(error).to.be.instanceOf(InputError);
    expect((error as InputError).next).to.match(/--data/);
  });
});
