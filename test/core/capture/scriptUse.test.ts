import { expect } from 'chai';
import fc from 'fast-check';
import { ranChars, scriptUses, type CoveredRange } from '../../../src/core/capture/scriptUse';

const range = (startOffset: number, endOffset: number, count: number): CoveredRange => ({
  startOffset,
  endOffset,
  count,
});

/** Ranges as functions lie: each inside its parent, brothers apart. */
const nested = (from: number, to: number, depth: number): fc.Arbitrary<CoveredRange[]> =>
  fc
    .record({
      count: fc.integer({ min: 0, max: 1 }),
      cuts: fc.array(fc.integer({ min: from, max: to }), { maxLength: 6 }),
    })
    .chain(({ count, cuts }) => {
      const own = range(from, to, count);
      if (depth === 0) return fc.constant([own]);
      const at = [...cuts].sort((a, b) => a - b);
      const inside = [];
      for (let i = 0; i + 1 < at.length; i += 2) inside.push(nested(at[i] ?? from, at[i + 1] ?? to, depth - 1));
      return fc.tuple(...inside).map((lists) => [own, ...lists.flat()]);
    });

/** The same character by character: the innermost range that holds it decides. */
function oneByOne(ranges: readonly CoveredRange[], chars: number): number {
  let ran = 0;
  for (let i = 0; i < chars; i++) {
    const holding = ranges.filter((r) => r.startOffset <= i && i < r.endOffset);
    const inner = holding.reduce<CoveredRange | undefined>(
      (a, b) => (a && a.endOffset - a.startOffset < b.endOffset - b.startOffset ? a : b),
      undefined,
    );
    if (inner && inner.count > 0) ran++;
  }
  return ran;
}

describe('core/capture: how much of a script ran', () => {
  it('lets the innermost function decide', () => {
    expect(ranChars([range(0, 100, 1), range(10, 40, 0)])).to.equal(70);
    expect(ranChars([range(0, 100, 1), range(10, 60, 0), range(20, 30, 1)])).to.equal(60);
    expect(ranChars([range(0, 100, 0)])).to.equal(0);
    expect(ranChars([])).to.equal(0);
  });

  it('counts as one by one does, in any order of the ranges', () => {
    fc.assert(
      fc.property(nested(0, 60, 3), fc.integer(), (ranges, seed) => {
        const mixed = ranges.map((r, i) => [(i * 7919 + seed) % 101, r] as const).sort((a, b) => a[0] - b[0]);
        // Two ranges of one place are told apart by nothing: V8 has none.
        const places = new Set(ranges.map((r) => `${r.startOffset} ${r.endOffset}`));
        fc.pre(places.size === ranges.length);
        expect(ranChars(mixed.map(([, r]) => r))).to.equal(oneByOne(ranges, 60));
      }),
    );
  });

  it('leaves out what stands in the document, and takes the run that used most', () => {
    const page = 'https://www.fernhollow.example/';
    const file = `${page}js/kit.js`;
    const uses = scriptUses(
      [
        { url: page, ranges: [range(0, 50, 1)] },
        { url: '', ranges: [range(0, 9, 1)] },
        { url: file, ranges: [range(0, 100, 1), range(10, 90, 0)] },
        { url: file, ranges: [range(0, 100, 1), range(10, 60, 0)] },
        { url: `${page}js/empty.js`, ranges: [range(0, 0, 1)] },
      ],
      new Set([file, `${page}js/empty.js`]),
    );
    expect(uses).to.deep.equal([{ url: file, chars: 100, ranChars: 50 }]);
  });
});
