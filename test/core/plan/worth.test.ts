import { expect } from 'chai';
import fc from 'fast-check';
import { worthOf, worthShort, worthText } from '../../../src/core/plan/worth';

describe('core/plan/worth', () => {
  it('is harm times reach, with a forecast where there is one', () => {
    const slow = worthOf({ harm: 'slow', pages: 8, reach: 40, forecastMs: 640 });
    expect(slow).to.include({ seconds: 25.6, forecast: true, harmMs: 640 });
    expect(worthText(slow, 'slow')).to.equal(
      "640 ms of hero paint that the fix wins on a page × 40 visits: each link in to its 8 pages followed once, and one more a page = 26 s of visitors' time.",
    );
    const broken = worthOf({ harm: 'broken', pages: 1, reach: 1, forecastMs: 640 });
    expect(broken).to.include({ seconds: 3, forecast: false });
    expect(worthText(broken, 'broken')).to.match(
      /3000 ms, which broken counts for × 1 page \(links to them are not known\)/,
    );
  });

  it('never takes a fix that slows for a gain, and never hides more reach', () => {
    expect(worthOf({ harm: 'slow', pages: 1, reach: 1, forecastMs: -50 }).seconds).to.equal(0);
    fc.assert(
      fc.property(fc.nat(1000), fc.nat(1000), fc.nat(5000), (pages, more, ms) => {
        const a = worthOf({ harm: 'slow', pages, reach: pages, forecastMs: ms });
        const b = worthOf({ harm: 'slow', pages, reach: pages + more, forecastMs: ms });
        expect(b.seconds).to.be.at.least(a.seconds);
      }),
    );
  });

  it('is written short', () => {
    const short = (seconds: number) => worthShort({ seconds });
    expect([1.25, 12.3, 240, 7200].map(short)).to.deep.equal(['1.3 s', '12 s', '4 min', '2 h']);
  });
});
