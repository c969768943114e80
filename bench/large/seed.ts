import Database from 'better-sqlite3';
import fs from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { folderOf } from '../../src/core/site/address';
import { importHar } from '../../src/engine/services/importHar';
import { DEFAULT_VISITOR } from '../../src/core/load/visitors';
import { keepForecasts } from '../../src/engine/services/keepForecasts';
import { makePageTimes } from '../../src/engine/services/pageTimes';
import { sweepFiles } from '../../src/engine/services/sweepFiles';
import { insertCrawl, type CrawlRows } from '../../src/engine/store/crawlTables';
import { addSite, siteSettings } from '../../src/engine/store/sites';
import { DATABASE, openStore, projectRoot } from '../../src/engine/store/store';
import { addPastSweep } from '../../src/engine/store/sweeps';
import { shifted } from '../../demo/shifted';
import { withMorePictures } from './manyPictures';

/** How large the site is made. */
export interface LargeSite {
  /** Copies of the demo's site: each has about a hundred pages, eight of them recorded. */
  readonly copies: number;
  /** Pictures that each recorded page has besides its own. */
  readonly pictures: number;
}

const HOME = 'https://www.fernhollow.example/';
const DAY_MS = 24 * 3_600_000;

/** Sweeps of the large site, the latest last. */
const SWEEPS = [
  { from: 'before', day: '2026-10-15', shiftMs: -21 * DAY_MS },
  { from: 'before', day: '2026-11-05', shiftMs: 0 },
  { from: '', day: '2026-11-26', shiftMs: 0 },
] as const;

/** A folder of the site that holds a copy of the whole demo; none for the first one. */
const within = (copy: number) => (copy === 0 ? '' : `c${copy}/`);
const moved = (text: string, copy: number) =>
  text.replaceAll('fernhollow.example/', `fernhollow.example/${within(copy)}`);

/** Fills a data folder with one large site of three sweeps; gives the time that what screens show of the last one took, in ms. */
export async function seedLarge(folder: string, { copies, pictures }: LargeSite): Promise<number> {
  const store = await openStore(folder);
  const site = await addSite(store, 'Fernhollow, very large', HOME);
  const settings = await siteSettings(store, site);
  const sweeps: number[] = [];
  for (const { from, day, shiftMs } of SWEEPS) {
    const packed = fs.readFileSync(path.join(projectRoot(), `demo/crawl/${from || 'now'}.json.gz`));
    const rows = JSON.parse(zlib.gunzipSync(packed).toString('utf8')) as CrawlRows;
    const startedAt = `${day}T01:00:00.000Z`;
    const sweepId = await store.transaction().execute(async (tx) => {
      const id = await addPastSweep(tx, site.id, settings, { startedAt, endedAt: `${day}T03:00:00.000Z` });
      await insertCrawl(tx, id, manyPages(rows, copies), startedAt);
      return id;
    });
    const captures = path.join(projectRoot(), 'demo/captures', from);
    for (const name of fs.readdirSync(captures).filter((f) => f.endsWith('-phone.har.gz'))) {
      const har = shifted(withMorePictures(fs.readFileSync(path.join(captures, name)), pictures), shiftMs);
      await importHar(store, Buffer.from(har), name, { siteId: site.id, sweepId });
    }
    sweeps.push(sweepId);
  }
  await store.destroy();
  for (const sweepId of sweeps) copyCaptures(path.join(folder, DATABASE), sweepId, copies);
  const again = await openStore(folder);
  const started = performance.now();
  await keepForecasts(again, sweeps.at(-1) ?? 0);
  const took = performance.now() - started;
  // What the sweep before has kept since it ended, as far as comparisons use it.
  const before = sweeps.at(-2) ?? 0;
  await makePageTimes(again, before, DEFAULT_VISITOR);
  await sweepFiles(again, before, 'phone');
  await again.destroy();
  return took;
}

/** Rows of a crawl, many times over, each time in a folder of its own. */
function manyPages(rows: CrawlRows, copies: number): CrawlRows {
  const ids = rows.pages.length;
  const out: Record<string, Record<string, unknown>[]> = {};
  for (const [table, own] of Object.entries(rows)) {
    const list: Record<string, unknown>[] = [];
    for (let copy = 0; copy < copies; copy++) {
      if (copy > 0 && (table === 'fingerprints' || table === 'templates')) break;
      for (const row of JSON.parse(moved(JSON.stringify(own), copy)) as Record<string, unknown>[]) {
        for (const name of ['id', 'from_id', 'to_id', 'page_id'])
          if (typeof row[name] === 'number') row[name] = row[name] + copy * ids;
        if (table === 'pages') row['folder'] = folderOf(row['url'] as string);
        if (table === 'templates') row['pages'] = (row['pages'] as number) * copies;
        list.push(row);
      }
    }
    out[table] = list;
  }
  return out as unknown as CrawlRows;
}

/** Recorded pages of a sweep, many times over, with their audits and findings. */
function copyCaptures(file: string, sweepId: number, copies: number): void {
  const db = new Database(file);
  const repack = (bytes: Buffer, copy: number) =>
    zlib.gzipSync(moved(zlib.gunzipSync(bytes).toString('utf8'), copy), { level: 4 });
  const insert = (table: string, row: Record<string, unknown>) => {
    const names = Object.keys(row);
    return db
      .prepare(`insert into ${table} (${names.map((n) => `"${n}"`).join()}) values (${names.map(() => '?').join()})`)
      .run(...Object.values(row)).lastInsertRowid;
  };
  const captures = db.prepare('select * from captures where sweep_id = ?').all(sweepId) as Record<string, unknown>[];
  db.transaction(() => {
    for (const { id, ...row } of captures) {
      const findings = db.prepare('select * from findings where capture_id = ?').all(id) as Record<string, unknown>[];
      const bodies = db.prepare('select body_id from capture_bodies where capture_id = ?').all(id) as {
        body_id: number;
      }[];
      for (let copy = 1; copy < copies; copy++) {
        const next = insert('captures', {
          ...row,
          page: moved(row['page'] as string, copy),
          file_hash: `${row['file_hash'] as string} ${copy}`,
          capture: repack(row['capture'] as Buffer, copy),
          audit: repack(row['audit'] as Buffer, copy),
        });
        for (const { body_id } of bodies) insert('capture_bodies', { capture_id: next, body_id });
        for (const finding of findings) {
          const texts = Object.entries(finding).map(([k, v]) => [k, typeof v === 'string' ? moved(v, copy) : v]);
          insert('findings', { ...(Object.fromEntries(texts) as Record<string, unknown>), capture_id: next });
        }
      }
    }
  })();
  db.exec('analyze');
  db.close();
}
