/**
 * `npm run bench:sites [-- --sites N --pages N --captures N]`: how long screens take with hundreds of sites, millions of page facts and a hundred
 * thousand captures. Writes docs/sites-bench.md.
 */
import Database from 'better-sqlite3';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { addSite } from '../../src/engine/store/sites';
import { DATABASE, openStore, projectRoot } from '../../src/engine/store/store';
import { seedDemo } from '../../src/engine/services/seedDemo';
import { startBuiltServer } from '../builtServer';
import { machine } from '../machine';

const { values } = parseArgs({
  options: {
    sites: { type: 'string', default: '300' },
    pages: { type: 'string', default: '3000000' },
    captures: { type: 'string', default: '100000' },
  },
});
const [sites, pages, captures] = [Number(values.sites), Number(values.pages), Number(values.captures)];
const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'kl-sites-'));
const file = path.join(folder, DATABASE);
const port = 4690;

await fill();
const rows = await measure();
console.table(rows);
fs.writeFileSync(path.join(projectRoot(), 'docs/sites-bench.md'), document());
fs.rmSync(folder, { recursive: true, force: true });
process.exit(0);

/** The demo's site, many times over: each copy with its sweeps, page facts, captures, findings and what is kept. */
async function fill(): Promise<void> {
  const store = await openStore(folder);
  await seedDemo(store);
  for (let i = 2; i <= sites; i++) await addSite(store, `Garden ${i}`, `https://www.garden-${i}.example/`);
  await store.destroy();
  const db = new Database(file);
  db.pragma('synchronous = OFF');
  db.pragma('foreign_keys = OFF');
  db.pragma('cache_size = -200000');
  const columns = (table: string) =>
    (db.prepare(`pragma table_info(${table})`).all() as { name: string }[]).map((c) => c.name);
  /** Copies rows of a table with some columns stated anew. */
  const copy = (table: string, where: string, stated: Record<string, string>) => {
    const all = columns(table).filter((c) => c !== 'id' || table === 'findings' || 'id' in stated);
    const picked = all.map((c) => stated[c] ?? `"${c}"`);
    db.exec(
      `insert into ${table} (${all.map((c) => `"${c}"`).join(', ')}) select ${picked.join(', ')} from ${table} where ${where}`,
    );
  };
  const from = db
    .prepare(
      'select id, (select count(*) from pages where sweep_id = sweeps.id) as pages from sweeps where site_id = 1 order by id',
    )
    .all() as { id: number; pages: number }[];
  const most = (table: string) => (db.prepare(`select max(id) as n from ${table}`).get() as { n: number }).n;
  const perSweep = Math.ceil(pages / sites / from.length);
  const capturesPerSweep = Math.ceil(captures / sites / from.length);
  const shape = from.map((s) => ({
    ...s,
    captures: (db.prepare('select id from captures where sweep_id = ?').all(s.id) as { id: number }[]).map((c) => c.id),
  }));
  for (let siteId = 1; siteId <= sites; siteId++) {
    db.exec('begin');
    for (const sweep of shape) {
      let sweepId = sweep.id;
      if (siteId > 1) {
        sweepId = most('sweeps') + 1;
        copy('sweeps', `id = ${sweep.id}`, { id: String(sweepId), site_id: String(siteId) });
      }
      for (let n = siteId > 1 ? 0 : sweep.pages; n < perSweep; n += sweep.pages)
        copy('pages', `sweep_id = ${sweep.id} and url not like '%copy-%'`, {
          sweep_id: String(sweepId),
          url: `url || 'copy-${n}'`,
        });
      for (let n = siteId > 1 ? 0 : sweep.captures.length; n < capturesPerSweep; n += sweep.captures.length)
        for (const id of sweep.captures) {
          const next = most('captures') + 1;
          copy('captures', `id = ${id}`, {
            id: String(next),
            site_id: String(siteId),
            sweep_id: String(sweepId),
            // Only a few of a sweep are looked at together.
            page: n === 0 ? 'page' : `page || 'copy-${n}'`,
          });
          copy('findings', `capture_id = ${id}`, { capture_id: String(next) });
        }
      if (siteId > 1) {
        const revision = (db.prepare('select revision from sweeps where id = ?').get(sweepId) as { revision: number })
          .revision;
        copy('kept', `sweep_id = ${sweep.id}`, { sweep_id: String(sweepId), revision: String(revision) });
      } else
        db.exec(
          `update kept set revision = (select revision from sweeps where id = ${sweepId}) where sweep_id = ${sweepId}`,
        );
    }
    db.exec('commit');
    if (siteId % 50 === 0) console.log(`${siteId} sites, ${Math.round(fs.statSync(file).size / 2 ** 20)} MiB`);
  }
  db.exec('analyze');
  db.close();
}

async function measure(): Promise<(string | number)[][]> {
  const child = await startBuiltServer(folder, port, { KEEN_LENS_LOG: 'warn' });
  const url = `http://127.0.0.1:${port}`;
  await fetch(`${url}/api/health`);
  const site = Math.ceil(sites / 2);
  const screens: [string, string][] = [
    ['Sites', '/'],
    ['Sites, as data', '/api/sites'],
    ['Brief', `/sites/${site}`],
    ['Pages', `/sites/${site}/pages`],
    ['Recorded pages', `/sites/${site}/pages?view=captured`],
    ['Files', `/sites/${site}/files`],
    ['Mixed content', `/sites/${site}/concerns/mixed`],
    ['Hero', `/sites/${site}/concerns/hero`],
    ['Weight', `/sites/${site}/concerns/weight`],
    ['Blocking', `/sites/${site}/concerns/blocking`],
    ['HTTPS coverage', `/sites/${site}/concerns/https`],
    ['Bench and plans', `/sites/${site}/plan`],
    ['Proofs', `/sites/${site}/proofs`],
    ['Handover', `/sites/${site}/handover`],
    ['Then & now', `/sites/${site}/compare`],
    ['Field data', `/sites/${site}/field`],
    ['Watch', `/sites/${site}/watch`],
    ['New sweep', `/sites/${site}/sweep`],
    ['Recorders', '/recorders'],
    ['People', '/people'],
  ];
  const out: (string | number)[][] = [];
  for (const [name, at] of screens) {
    const times: number[] = [];
    for (let i = 0; i < 6; i++) {
      const started = performance.now();
      const response = await fetch(url + at);
      await response.arrayBuffer();
      times.push(performance.now() - started);
    }
    const [first = 0, ...more] = times.map(Math.round);
    out.push([name, first, more.sort((a, b) => a - b)[2] ?? 0]);
  }
  child.kill('SIGKILL');
  return out;
}

function document(): string {
  const line = (cells: readonly (string | number)[]) => `| ${cells.join(' | ')} |`;
  return `# Screens with hundreds of sites

Made by \`npm run bench:sites\` (${machine()}). Do not edit: \`bench/fleet/sites.ts\` writes it.

${sites.toLocaleString('en-GB')} sites, copies of the demo's, with ${pages.toLocaleString('en-GB')} page facts and ${captures.toLocaleString('en-GB')} captures in one database of ${Math.round(fs.statSync(file).size / 2 ** 20).toLocaleString('en-GB')} MiB. Time from a request on loopback to the last byte
of the page as the server draws it, in ms: the first time, and the middle of five more. Wanted: 500 ms.

${[line(['Screen', 'First', 'Then']), line(['---', '---', '---']), ...rows.map(line)].join('\n')}
`;
}
