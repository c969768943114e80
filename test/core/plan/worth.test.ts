import { expect } from 'chai';
import fc from 'fast-check';
import { byWorth, savedSeconds, worthOf, worthShort, worthText } from '../../../src/core/plan/worth';

describe('core/plan/worth', () => {
  it('is the time a slow cause costs, times its visits', () => {
    const slow = worthOf({ harm: 'slow', pages: 8, reach: 40, forecastMs: 640 });
    expect(savedSeconds(slow)).to.equal(25.6);
    expect(worthShort(slow)).to.equal('640 ms a page × 40 visits');
    expect(worthText(slow)).to.equal(
      'Its best fix saves 640 ms of hero paint (LCP) a page, by forecast. 40 visits may meet it: each link in to its 8 pages followed once, and one more a page.',
    );
  });

  it('has no time for what breaks or exposes, whatever a fix saves besides', () => {
    for (const harm of ['broken', 'exposed', 'tidy'] as const) {
      const worth = worthOf({ harm, pages: 2, reach: 2, forecastMs: 640 });
      expect(savedSeconds(worth)).to.equal(0);
      expect(worthShort(worth)).to.equal('2 pages');
      expect(worthText(worth)).to.match(/no time that could be counted.*not known\.$/);
    }
  });

  it('orders by what breaks, then by time, visits and pages', () => {
    const broken = worthOf({ harm: 'broken', pages: 1, reach: 1 });
    const slow = worthOf({ harm: 'slow', pages: 9, reach: 90, forecastMs: 4000 });
    expect([slow, broken].sort(byWorth)).to.deep.equal([broken, slow]);
    fc.assert(
      fc.property(fc.nat(1000), fc.nat(1000), fc.nat(5000), (pages, more, ms) => {
        const a = worthOf({ harm: 'slow', pages, reach: pages, forecastMs: ms });
        const b = worthOf({ harm: 'slow', pages, reach: pages + more, forecastMs: ms });
        expect(byWorth(b, a)).to.be.at.most(0);
      }),
    );
    expect(worthOf({ harm: 'slow', pages: 1, reach: 1, forecastMs: -50 }).savedMs).to.equal(0);
  });
});
