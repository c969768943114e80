import { expect } from 'chai';
import fc from 'fast-check';
import { exhaustiveWay, wayTo } from '../../../src/core/plan/target';
import type { Candidate } from '../../../src/core/plan/search';

const candidate = (id: string, effort = 10): Candidate => ({ id, effort });
const less = (wins: Record<string, number>) => (ids: readonly string[]) =>
  5000 - ids.reduce((sum, id) => sum + (wins[id] ?? 0), 0);

describe('core/plan/target', () => {
  it('takes nothing when the target is met already', () => {
    const way = wayTo([candidate('a')], less({ a: 900 }), 5000);
    expect(way).to.deep.equal({ ids: [], value: 5000, reached: true, effort: 0 });
  });

  it('takes the fewest that get there, in the order in which they win', () => {
    const wins = { small: 300, big: 1500, middle: 900, tiny: 100 };
    const way = wayTo(
      Object.keys(wins).map((id) => candidate(id)),
      less(wins),
      2600,
    );
    expect(way.ids).to.deep.equal(['big', 'middle']);
    expect(way).to.include({ value: 2600, reached: true, effort: 20 });
  });

  it('takes the cheaper of two that both get there', () => {
    const list = [candidate('dear', 200), candidate('cheap', 10)];
    expect(wayTo(list, less({ dear: 1200, cheap: 1100 }), 4000).ids).to.deep.equal(['cheap']);
  });

  it('finds two that win only together', () => {
    const both = (ids: readonly string[]) => (ids.includes('a') && ids.includes('b') ? 2000 : 5000);
    const way = wayTo([candidate('a'), candidate('b'), candidate('c')], both, 2500);
    expect(way.ids).to.have.members(['a', 'b']);
    expect(way.reached).to.equal(true);
  });

  it('comes as near as it can where the target is out of reach, without what does not help', () => {
    const way = wayTo([candidate('a'), candidate('b'), candidate('idle')], less({ a: 900, b: 300 }), 1000);
    expect(way.ids).to.deep.equal(['a', 'b']);
    expect(way).to.include({ value: 3800, reached: false });
  });

  it('needs nearly never more changes than the smallest set, and never misses a target that can be met alone', () => {
    const bench = fc.record({
      efforts: fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 7 }),
      wins: fc.array(fc.integer({ min: 0, max: 900 }), { minLength: 7, maxLength: 7 }),
      overlap: fc.double({ min: 0, max: 0.9, noNaN: true }),
      target: fc.integer({ min: 1500, max: 5000 }),
    });
    let more = 0;
    let runs = 0;
    fc.assert(
      fc.property(bench, ({ efforts, wins, overlap, target }) => {
        const list = efforts.map((e, i) => candidate(`f${i}`, e));
        const value = (ids: readonly string[]) =>
          5000 -
          ids
            .map((id) => wins[Number(id.slice(1))] ?? 0)
            .sort((a, b) => b - a)
            .reduce((sum, w, i) => sum + w * (1 - overlap) ** i, 0);
        const made = wayTo(list, value, target);
        const best = exhaustiveWay(list, value, target);
        // What wins less than a millisecond is not looked for.
        if (best.reached && !made.reached) expect(made.value - target).to.be.below(1);
        else expect(made.reached).to.equal(best.reached);
        expect(made.value).to.equal(value(made.ids));
        if (made.reached) expect(made.value).to.be.at.most(target);
        runs++;
        if (made.ids.length > best.ids.length) more++;
      }),
      { numRuns: 300 },
    );
    expect(more / runs).to.be.below(0.03);
  });
});
