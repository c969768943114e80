import { expect } from 'chai';
import fc from 'fast-check';
import {
  bestOrder,
  bestWithin,
  exhaustiveOrder,
  exhaustiveWithin,
  meanOfOrder,
  type Candidate,
} from '../../../src/core/plan/search';

const candidate = (id: string, effort = 10): Candidate => ({ id, effort });

describe('core/plan/search', () => {
  it('takes what wins most first, and puts what wins nothing last, the cheapest first', () => {
    const won: Record<string, number> = { a: 100, b: 300, c: 0, d: 0 };
    const { steps } = bestOrder(
      [candidate('a'), candidate('b'), candidate('c', 30), candidate('d', 5)],
      (ids) => 1000 - ids.reduce((sum, id) => sum + (won[id] ?? 0), 0),
    );
    expect(steps.map((s) => s.id)).to.deep.equal(['b', 'a', 'd', 'c']);
    expect(steps.map((s) => s.won)).to.deep.equal([300, 100, 0, 0]);
  });

  it('finds two that win only together', () => {
    const both = (ids: readonly string[]) => (ids.includes('a') && ids.includes('b') ? 500 : 1000);
    const { steps } = bestOrder([candidate('a'), candidate('b'), candidate('c')], both);
    expect(steps.slice(0, 2).map((s) => s.id)).to.have.members(['a', 'b']);
    expect(steps[2]).to.deep.equal({ id: 'c', won: 0 });
  });

  it('looks at few sets again when wins do not depend on each other', () => {
    const many = Array.from({ length: 30 }, (_, i) => candidate(`f${i}`));
    const { evaluations } = bestOrder(
      many,
      (ids) => 20_000 - ids.reduce((sum, id) => sum + 110 * 1.1 ** Number(id.slice(1)), 0),
    );
    expect(evaluations).to.be.below((30 * 31) / 2);
  });

  it('stays within the effort, and finds the best of small benches nearly always', () => {
    const bench = fc.record({
      efforts: fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 7 }),
      wins: fc.array(fc.integer({ min: 0, max: 400 }), { minLength: 7, maxLength: 7 }),
      overlap: fc.double({ min: 0, max: 1, noNaN: true }),
      minutes: fc.integer({ min: 0, max: 200 }),
    });
    let missed = 0;
    let runs = 0;
    fc.assert(
      fc.property(bench, ({ efforts, wins, overlap, minutes }) => {
        const list = efforts.map((e, i) => candidate(`f${i}`, e));
        // The second best of a set counts less, as overlapping fixes do.
        const value = (ids: readonly string[]) =>
          3000 -
          ids
            .map((id) => wins[Number(id.slice(1))] ?? 0)
            .sort((a, b) => b - a)
            .reduce((sum, w, i) => sum + w * (1 - overlap) ** i, 0);
        const made = bestWithin(list, value, minutes);
        const best = exhaustiveWithin(list, value, minutes);
        expect(made.effort).to.be.at.most(minutes);
        expect(made.value).to.be.at.least(best.value - 1e-6);
        expect(made.value).to.be.closeTo(value(made.ids), 1e-6);
        runs++;
        if (made.value - best.value > 0.1 * (3000 - best.value) + 1) missed++;
      }),
      { numRuns: 200, seed: 5 },
    );
    expect(missed / runs).to.be.below(0.05);
  });

  it('tries everything only on benches that are small enough', () => {
    const many = Array.from({ length: 13 }, (_, i) => candidate(`f${i}`));
    expect(() => exhaustiveWithin(many, () => 0, 10)).to.throw(RangeError);
    expect(() => exhaustiveOrder(many, () => 0)).to.throw(RangeError);
    const value = (ids: readonly string[]) => 100 - 10 * ids.length - (ids.includes('b') ? 30 : 0);
    const best = exhaustiveOrder([candidate('a'), candidate('b')], value);
    expect(best.ids).to.deep.equal(['b', 'a']);
    expect(best.mean).to.equal(meanOfOrder(['b', 'a'], value));
  });
});
