import Database from 'better-sqlite3';
import { expect } from 'chai';
import { sql } from 'kysely';
import fs from 'node:fs';
import path from 'node:path';
import { InputError } from '../../src/core/capture/errors';
import { storeFault } from '../../src/engine/store/faults';
import { addJob, jobInput } from '../../src/engine/store/jobs';
import { KEY_FILE } from '../../src/engine/store/sealed';
import { addSite, saveSiteSettings, siteSettings } from '../../src/engine/store/sites';
import { DATABASE, openStore, type Store } from '../../src/engine/store/store';
import { removeStrayUploads } from '../../src/engine/store/uploads';
import { fastSettings } from '../fixtures/sweep';
import { tempFolder } from '../fixtures/temp';

const HOME = 'https://www.fernhollow.example/';

describe('engine/store', () => {
  const temp = tempFolder('store');
  let count = 0;
  const open: Store[] = [];
  const folder = () => path.join(temp.folder, String(++count));
  const opened = async (at = folder()) => {
    const store = await openStore(at);
    open.push(store);
    return { store, at };
  };
  afterEach(async () => {
    await Promise.all(open.splice(0).map((s) => s.destroy()));
  });
  after(temp.remove);

  const fault = async (run: () => Promise<unknown>): Promise<InputError> => {
    const error: unknown = await run().then(
      () => new Error('nothing was wrong'),
      (e: unknown) => e,
    );
    expect(error).to.be.instanceOf(InputError);
    return error as InputError;
  };

  it('lets its owner alone read folder, database and key', async () => {
    const { store, at } = await opened();
    await addSite(store, 'Fern', HOME);
    await saveSiteSettings(store, 1, fastSettings(HOME));
    const mode = (name: string) => (fs.statSync(path.join(at, name)).mode & 0o777).toString(8);
    expect([mode('.'), mode(DATABASE), mode(`${DATABASE}-wal`), mode(KEY_FILE)]).to.deep.equal([
      '700',
      '600',
      '600',
      '600',
    ]);
  });

  it('narrows the rights of a database that was made before, but not of a folder that is somebody’s own', async () => {
    const at = folder();
    fs.mkdirSync(at, { mode: 0o755 });
    fs.chmodSync(at, 0o755);
    const first = await openStore(at);
    await first.destroy();
    expect((fs.statSync(at).mode & 0o777).toString(8)).to.equal('755');
    fs.chmodSync(path.join(at, DATABASE), 0o644);
    await opened(at);
    expect((fs.statSync(path.join(at, DATABASE)).mode & 0o777).toString(8)).to.equal('600');
  });

  it('keeps headers, password and job input encrypted, and gives them back', async () => {
    const { store, at } = await opened();
    const site = await addSite(store, 'Fern', HOME);
    const settings = fastSettings(HOME, {
      headers: [{ name: 'X-Garden', value: 'Fern4711Hollow' }],
      basicAuth: { username: 'fern', password: 'Moss0815Bank' },
    });
    await saveSiteSettings(store, site.id, settings);
    const id = await addJob(store, { kind: 'sweep', title: 'x', input: { siteId: site.id, settings } });
    expect(await siteSettings(store, site)).to.deep.include({
      headers: settings.headers,
      basicAuth: settings.basicAuth,
    });
    expect(await jobInput(store, id)).to.deep.include({ siteId: site.id });
    await sql`pragma wal_checkpoint(truncate)`.execute(store);
    for (const name of fs.readdirSync(at))
      for (const secret of ['Fern4711Hollow', 'Moss0815Bank'])
        expect(fs.readFileSync(path.join(at, name)).includes(secret), name).to.equal(false);
  });

  it('reads settings that were stored before there was a key', async () => {
    const { store } = await opened();
    const site = await addSite(store, 'Fern', HOME);
    await store
      .updateTable('sites')
      .set({ settings: JSON.stringify({ perSecond: 7 }) })
      .execute();
    expect((await siteSettings(store, site)).perSecond).to.equal(7);
  });

  it('says so when the key is not the one that was used', async () => {
    const { store, at } = await opened();
    const site = await addSite(store, 'Fern', HOME);
    await saveSiteSettings(store, site.id, fastSettings(HOME));
    const row = await store.selectFrom('sites').select('settings').executeTakeFirstOrThrow();
    const other = await opened();
    await addSite(other.store, 'Fern', HOME);
    await other.store.updateTable('sites').set({ settings: row.settings }).execute();
    const error = await fault(() => siteSettings(other.store, site));
    expect(error.what).to.match(/key file/);
    expect(error.where).to.contain(KEY_FILE).and.not.contain(at);
  });

  it('tells of a full disk what it is, and stores nothing by halves', async () => {
    const { store } = await opened();
    await sql.raw('pragma max_page_count = 120').execute(store);
    const error: unknown = await store
      .transaction()
      .execute(async (tx) => {
        const site = await addSite(tx, 'Half', HOME);
        await tx
          .updateTable('sites')
          .set({ settings: 'x'.repeat(4_000_000) })
          .where('id', '=', site.id)
          .execute();
      })
      .catch((e: unknown) => e);
    expect(storeFault(error)?.what).to.match(/disk is full/);
    await sql.raw('pragma max_page_count = 1000000').execute(store);
    expect(await store.selectFrom('sites').selectAll().execute()).to.deep.equal([]);
    await addSite(store, 'Whole', HOME);
  });

  it('names a database of a newer version', async () => {
    const at = folder();
    await (await openStore(at)).destroy();
    const file = path.join(at, DATABASE);
    const raw = new Database(file);
    raw.exec("insert into kysely_migration (name, timestamp) values ('999-later', '2027-01-01')");
    raw.close();
    const error = await fault(() => openStore(at));
    expect(error.what).to.match(/newer Keen Lens.*999-later/);
    expect(error.where).to.equal(file);
    expect(error.next).to.match(/Update/);
  });

  it('names what is no database, and a folder that is none', async () => {
    const at = folder();
    fs.mkdirSync(at);
    fs.writeFileSync(path.join(at, DATABASE), 'not a database at all, but text that goes on for a while'.repeat(40));
    expect((await fault(() => openStore(at))).what).to.equal('The database is damaged.');
    const file = folder();
    fs.writeFileSync(file, '');
    expect((await fault(() => openStore(path.join(file, 'in')))).what).to.match(/no folder/);
  });

  it('removes uploads that no job will read, and keeps the others', async () => {
    const { store, at } = await opened();
    const uploads = path.join(at, 'uploads');
    fs.mkdirSync(uploads);
    for (const name of ['stray.har', 'waiting.har', 'ended.har']) fs.writeFileSync(path.join(uploads, name), 'x');
    await addJob(store, {
      kind: 'import',
      title: 'x',
      input: { file: path.join(uploads, 'waiting.har'), fileName: 'a' },
    });
    const ended = await addJob(store, {
      kind: 'import',
      title: 'x',
      input: { file: path.join(uploads, 'ended.har'), fileName: 'b' },
    });
    await store.updateTable('jobs').set({ state: 'failed' }).where('id', '=', ended).execute();
    expect(await removeStrayUploads(store, at)).to.equal(2);
    expect(fs.readdirSync(uploads)).to.deep.equal(['waiting.har']);
  });
});
