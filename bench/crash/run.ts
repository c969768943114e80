/**
 * `npm run bench:crash [-- --kills N]`: kills sweeps, imports, examinations, recordings and migrations at many moments,
 * lets each go on, and says what was lost or left; writes docs/robustness.md.
 */
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { keepResult } from '../robustness';
import { killJobs, WORK } from './killedJobs';
import { killSweeps } from './killedSweeps';

const { values } = parseArgs({ options: { kills: { type: 'string', default: '200' } } });
const kills = Number(values.kills);
// A short folder: a browser makes sockets in it.
const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'kl-'));
// Side by side, each of a site of its own: starting a process is most of the work.
const sweeps = await Promise.all(['x', 'xx'].map((name) => killSweeps(folder, Math.ceil(kills / 2), name)));
const rows = [
  {
    work: 'sweep',
    kills: sweeps.reduce((n, s) => n + s.kills, 0),
    inTheMiddle: sweeps.reduce((n, s) => n + s.kills, 0),
    faults: sweeps.flatMap((s) => s.faults),
  },
  ...(await Promise.all(WORK.map((work) => killJobs(work, kills, folder)))),
];
fs.rmSync(folder, { recursive: true, force: true });
const table = rows.map((r) => [
  r.work,
  r.kills,
  r.inTheMiddle,
  r.faults.length === 0 ? 'nothing' : r.faults.join('; '),
]);
console.table(table);
keepResult('crash', table);
process.exit(rows.every((r) => r.faults.length === 0) ? 0 : 1);
