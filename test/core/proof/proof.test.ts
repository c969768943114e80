import { expect } from 'chai';
import fc from 'fast-check';
import { changeOfRuns, heldOf, samplesOfRuns, saysEnough, type Visited } from '../../../src/core/proof/proof';
import { changeText, rangeText, verdictOf, verdictText, type Proved } from '../../../src/core/proof/words';
import { LEAST_PROOFS, ownTrust, scaledRange } from '../../../src/core/proof/learn';

const run = (lcpMs: number, more: Partial<Visited> = {}): Visited => ({
  fcpMs: lcpMs / 2,
  lcpMs,
  loadMs: lcpMs + 100,
  cls: 0.02,
  bytes: 500_000,
  ...more,
});
const before = [4000, 4100, 3950, 4050, 4020].map((ms) => run(ms));
const after = [2000, 2040, 1980, 2100, 2020].map((ms) => run(ms));

describe('core/proof', () => {
  it('takes medians, and intervals around them that the runs explain', () => {
    const { lcpMs } = samplesOfRuns(before);
    expect(lcpMs.median).to.equal(4020);
    expect(lcpMs.low).to.be.within(3950, 4020);
    expect(lcpMs.high).to.be.within(4020, 4100);
    expect(lcpMs.values).to.deep.equal([4000, 4100, 3950, 4050, 4020]);
    const change = changeOfRuns(before, after);
    expect(change.lcpMs.median).to.equal(-2000);
    expect(change.lcpMs.values[0]).to.equal(-2000);
  });

  it('gives the same interval for the same runs, and the median always inside', () => {
    const times = fc.array(fc.integer({ min: 50, max: 20_000 }), { minLength: 1, maxLength: 9 });
    fc.assert(
      fc.property(times, times, (a, b) => {
        const change = changeOfRuns(
          a.map((t) => run(t)),
          b.map((t) => run(t)),
        );
        expect(change).to.deep.equal(
          changeOfRuns(
            a.map((t) => run(t)),
            b.map((t) => run(t)),
          ),
        );
        expect(change.lcpMs.low).to.be.at.most(change.lcpMs.median);
        expect(change.lcpMs.high).to.be.at.least(change.lcpMs.median);
      }),
      { numRuns: 30 },
    );
  });

  it('stops when the runs agree, and goes on when they do not', () => {
    expect(saysEnough(before.slice(0, 2), after.slice(0, 2))).to.equal(false);
    expect(saysEnough(before.slice(0, 4), after.slice(0, 4))).to.equal(true);
    const wild = [1500, 4200, 2600, 5000, 1800].map((ms) => run(ms));
    expect(saysEnough(before, wild)).to.equal(false);
  });

  const proved = (range: readonly [number, number], more: Partial<Proved> = {}): Proved => {
    const change = changeOfRuns(before, after);
    const forecast = {
      change: { fcpMs: -1000, lcpMs: -2200, loadMs: -2000, bytes: 0 },
      range: { fcpMs: [-1200, -800] as const, lcpMs: range, loadMs: [-2300, -1800] as const },
    };
    return {
      before: samplesOfRuns(before),
      change,
      forecast,
      held: heldOf(change, forecast),
      firstScreenAlike: 0.98,
      firstScreenItself: 1,
      newErrors: [],
      ...more,
    };
  };

  it('says in words how a promise came out', () => {
    expect(verdictText(proved([-2600, -1900]))).to.equal('Promised 1.9 to 2.6 s less; measured 2.0 s less. Held.');
    expect(verdictOf(proved([-3000, -2600]))).to.equal('less');
    expect(verdictOf(proved([-1500, -1000]))).to.equal('more');
    expect(rangeText([-150, 90])).to.equal('150 ms less to 90 ms more');
    expect(rangeText([200, 400])).to.equal('200 to 400 ms more');
    expect(changeText(3)).to.equal('no change');
  });

  it('says when the fixes break the first screen or bring errors', () => {
    expect(verdictText(proved([-2600, -1900], { firstScreenAlike: 0.6 }))).to.match(/looks different/);
    expect(verdictText(proved([-2600, -1900], { newErrors: ['menu is not defined'] }))).to.match(/a new error/);
    // A page that differs from load to load is not broken by a fix.
    expect(verdictText(proved([-2600, -1900], { firstScreenAlike: 0.6, firstScreenItself: 0.61 }))).not.to.match(
      /different/,
    );
  });

  it('widens ranges after five proofs that went beyond them, narrows them where they were far too wide, shifts nothing', () => {
    const off = proved([-2300, -2150]);
    expect(ownTrust(Array.from({ length: LEAST_PROOFS - 1 }, () => off)).factor).to.equal(1);
    const wider = ownTrust(Array.from({ length: LEAST_PROOFS }, () => off));
    expect(wider.factor).to.be.above(1);
    const narrower = ownTrust(Array.from({ length: LEAST_PROOFS }, () => proved([-4000, 0])));
    expect(narrower.factor).to.be.below(1);
    const [low, high] = scaledRange([-2300, -2000], -2200, 2);
    expect([low, high]).to.deep.equal([-2400, -1800]);
  });
});
