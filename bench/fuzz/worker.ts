import { parentPort, workerData } from 'node:worker_threads';
import { InputError } from '../../src/core/capture/errors';
import { chanceFrom } from './mutate';
import { chooseTarget } from './targets';

/** What a thread is given: its part of the seeds, and where it writes which one it is at. */
export interface Part {
  readonly from: number;
  readonly to: number;
  /** [seed at hand, a count that changes with it] */
  readonly at: Int32Array;
}

/** What a thread tells of each target. */
export interface Told {
  readonly target: string;
  readonly inputs: number;
  readonly refused: number;
  readonly longestMs: number;
  readonly faults: readonly { readonly seed: number; readonly what: string }[];
}

const { from, to, at } = workerData as Part;
const told = new Map<
  string,
  { inputs: number; refused: number; longestMs: number; faults: Told['faults'][number][] }
>();
for (let seed = from; seed < to; seed++) {
  Atomics.store(at, 0, seed);
  Atomics.add(at, 1, 1);
  const chance = chanceFrom(seed);
  const target = chooseTarget(chance);
  const text = target.make(chance);
  const own = told.get(target.name) ?? { inputs: 0, refused: 0, longestMs: 0, faults: [] };
  told.set(target.name, own);
  own.inputs++;
  const started = performance.now();
  try {
    target.run(text);
  } catch (error) {
    if (error instanceof InputError && error.what && error.where && error.next) own.refused++;
    else
      own.faults.push({
        seed,
        what: (error instanceof Error ? (error.stack ?? error.message) : String(error)).slice(0, 400),
      });
  }
  own.longestMs = Math.max(own.longestMs, performance.now() - started);
}
parentPort?.postMessage([...told].map(([target, t]): Told => ({ target, ...t })));
