/**
 * `npm run bench:fuzz [-- --inputs N --from SEED --save]`: inputs that are almost right, each with a limit of time and
 * memory, and some that cost as much as they can; writes docs/robustness.md. `--save` keeps what failed in the corpus that
 * `npm test` reads.
 */
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { Worker } from 'node:worker_threads';
import { keepResult } from '../robustness';
import { chanceFrom } from './mutate';
import { chooseTarget, CORPUS, TARGETS } from './targets';
import { measureCostly } from './slow';
import type { Told } from './worker';

/** Longest time for one input, in ms, and most memory of a thread, in MB. */
const LIMIT_MS = 5000;
const LIMIT_MB = 512;
/** Seeds that a thread takes at a time. */
const CHUNK = 2000;

const { values } = parseArgs({
  options: {
    inputs: { type: 'string', default: '200000' },
    from: { type: 'string', default: '1000000' },
    save: { type: 'boolean', default: false },
  },
});
const first = Number(values.from);
const last = first + Number(values.inputs);

interface Row {
  inputs: number;
  refused: number;
  longestMs: number;
  faults: { seed: number; what: string }[];
}
const rows = new Map<string, Row>(TARGETS.map((t) => [t.name, { inputs: 0, refused: 0, longestMs: 0, faults: [] }]));
const rowOf = (seed: number): Row => rows.get(chooseTarget(chanceFrom(seed)).name) as Row;

let next = first;
await Promise.all(
  Array.from({ length: Math.max(1, os.cpus().length) }, async () => {
    while (next < last) {
      let from = next;
      const to = Math.min(last, from + CHUNK);
      next = to;
      while (from < to) from = await runPart(from, to);
      process.stderr.write(`${to - first} of ${last - first}\r`);
    }
  }),
);

/** Runs seeds in a thread; gives the seed to go on with: behind the one at which the thread had to be ended. */
function runPart(from: number, to: number, alone = false): Promise<number> {
  const at = new Int32Array(new SharedArrayBuffer(8));
  return new Promise((done) => {
    const thread = new Worker(new URL('./worker.mjs', import.meta.url), {
      workerData: { from, to, at },
      resourceLimits: { maxOldGenerationSizeMb: LIMIT_MB },
    });
    let count = 0;
    let since = Date.now();
    let ended = false;
    const end = (seed: number, what?: string, again?: () => Promise<number>) => {
      if (ended) return;
      ended = true;
      clearInterval(clock);
      if (what !== undefined) {
        const row = rowOf(seed);
        row.inputs++;
        row.faults.push({ seed, what });
      }
      void thread.terminate().then(() => done(again ? again() : what === undefined ? to : seed + 1));
    };
    const clock = setInterval(() => {
      const now = Atomics.load(at, 1);
      if (now !== count) {
        count = now;
        since = Date.now();
      } else if (count > 0 && Date.now() - since > LIMIT_MS) {
        const seed = Atomics.load(at, 0);
        // Other work on the machine may have held the thread up: such an input is tried again by itself.
        if (alone) end(seed, `had not ended after ${LIMIT_MS / 1000} s`);
        else end(seed, undefined, () => runPart(seed, seed + 1, true));
      }
    }, 100);
    thread.on('message', (told: Told[]) => {
      for (const t of told) {
        const row = rows.get(t.target) as Row;
        row.inputs += t.inputs;
        row.refused += t.refused;
        row.longestMs = Math.max(row.longestMs, t.longestMs);
        row.faults.push(...t.faults);
      }
      end(to);
    });
    thread.on('error', (error) => end(Atomics.load(at, 0), error.message));
  });
}

const table = [...rows].map(([name, r]) => [
  name,
  r.inputs,
  r.refused,
  Math.round(r.longestMs),
  r.faults.length === 0 ? 'none' : r.faults.length,
]);
console.table(table);
keepResult('fuzz', table);
const costly = measureCostly();
console.table(costly);
keepResult('slow', costly);
const faults = [...rows].flatMap(([name, r]) => r.faults.map((f) => ({ name, ...f })));
for (const { name, seed, what } of faults.slice(0, 50)) {
  console.log(`\n${name}, seed ${seed}: ${what}`);
  if (!values.save) continue;
  const chance = chanceFrom(seed);
  fs.writeFileSync(path.join(CORPUS, `${name}-${seed}.txt`), chooseTarget(chance).make(chance));
}
process.exit(faults.length === 0 ? 0 : 1);
