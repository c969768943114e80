import { corpus, chooseTarget, tolerate } from '../../bench/fuzz/targets';
import { chanceFrom } from '../../bench/fuzz/mutate';

/** Inputs here; many more, with limits of time and memory each, are a bench: `npm run bench:fuzz`. */
const INPUTS = 3000;
const PARTS = 10;

describe('inputs that are almost right', () => {
  for (const { file, target, text } of corpus())
    it(`what once failed: ${file}`, () => {
      tolerate(() => target.run(text));
    });

  for (let part = 0; part < PARTS; part++)
    it(`are read to the end, or refused in words: ${part * (INPUTS / PARTS)} to ${(part + 1) * (INPUTS / PARTS)}`, () => {
      for (let i = 0; i < INPUTS / PARTS; i++) {
        const seed = part * (INPUTS / PARTS) + i;
        const chance = chanceFrom(seed);
        const target = chooseTarget(chance);
        const text = target.make(chance);
        try {
          tolerate(() => target.run(text));
        } catch (error) {
          throw new Error(`input ${seed} (${target.name}): ${JSON.stringify(text.slice(0, 2000))}`, { cause: error });
        }
      }
    });
});
