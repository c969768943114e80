import Database from 'better-sqlite3';
import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { Kysely, Migrator, SqliteDialect } from 'kysely';
import * as start from '../../src/engine/store/migrations/001-start';
import { openStore } from '../../src/engine/store/store';
import { listSweeps } from '../../src/engine/store/sweeps';
import { tempFolder } from '../fixtures/temp';

describe('engine/store/migrations', () => {
  const temp = tempFolder('migration');
  after(temp.remove);

  it('brings a database of the first form up to date and loses nothing', async () => {
    const folder = path.join(temp.folder, 'old');
    fs.mkdirSync(folder);
    const sqlite = new Database(path.join(folder, 'keen-lens.db'));
    sqlite.pragma('foreign_keys = ON');
    const old = new Kysely<unknown>({ dialect: new SqliteDialect({ database: sqlite }) });
    const migrator = new Migrator({
      db: old,
      provider: { getMigrations: () => Promise.resolve({ '001-start': start }) },
    });
    expect((await migrator.migrateToLatest()).error).to.equal(undefined);
    sqlite.exec(`
      insert into sites (id, name, home, created_at) values (7, 'Garden', 'https://www.fernhollow.example/', '2026-11-01');
      insert into sweeps (id, site_id, day) values (3, 7, '2026-11-01');
      insert into captures (id, site_id, sweep_id, page, title, device, recorded_at, file_hash, file_name, requests, bytes, findings, capture, audit)
        values (5, 7, 3, 'https://www.fernhollow.example/', 'Welcome', 'phone', '2026-11-01', 'h', 'f', 1, 2, 3, x'00', x'00');
      insert into findings (capture_id, id, "check", concern, harm, page, target, title, json)
        values (5, 'x', 'mixed-load', 'mixed', 'broken', 'p', 't', 'T', '{}');`);
    await old.destroy();
    const store = await openStore(folder);
    expect(await listSweeps(store, 7)).to.deep.equal([
      { id: 3, siteId: 7, day: '2026-11-01', startedAt: null, endedAt: null, captures: 1, addresses: 0 },
    ]);
    const findings = await store.selectFrom('findings').select('capture_id').execute();
    expect(findings).to.deep.equal([{ capture_id: 5 }]);
    // What refers to the site still goes with it.
    await store.deleteFrom('sites').execute();
    expect(await store.selectFrom('findings').select('id').execute()).to.deep.equal([]);
    await store.destroy();
    await (await openStore(folder)).destroy();
  });
});
