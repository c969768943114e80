/** `npm run bench:crash [-- --kills N]`: kills sweeps at many moments and says what was lost. */
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { machine } from '../machine';
import { killSweeps } from './killedSweeps';

const { values } = parseArgs({ options: { kills: { type: 'string', default: '20' } } });
const kills = Number(values.kills);
const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-crash-'));
// Side by side, each of a site of its own: starting a process is most of the work.
const lanes = await Promise.all(['x', 'xx'].map((name) => killSweeps(folder, Math.ceil(kills / 2), name)));
fs.rmSync(folder, { recursive: true, force: true });
const faults = lanes.flatMap((l) => l.faults);
console.log(`Killed sweeps (${machine()})\n`);
console.log('| Kills | Sweeps that ended after them | Lost or doubled |\n|---|---|---|');
console.log(
  `| ${lanes.reduce((n, l) => n + l.kills, 0)} | ${lanes.reduce((n, l) => n + l.sweeps, 0)} | ${faults.length === 0 ? 'nothing' : faults.join('; ')} |`,
);
process.exit(faults.length === 0 ? 0 : 1);
