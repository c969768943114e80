import { expect } from 'chai';
import fc from 'fast-check';
import { Packets } from '../../../src/core/load/packets';

describe('core/load/packets', () => {
  it('has nothing coming at first, and none to acknowledge before one has arrived', () => {
    const p = new Packets();
    expect([p.nextArrival, p.nextAcknowledged]).to.deep.equal([Infinity, Infinity]);
    p.send(7);
    expect([p.nextArrival, p.nextAcknowledged]).to.deep.equal([7, Infinity]);
    p.arrive();
    expect([p.nextArrival, p.nextAcknowledged]).to.deep.equal([Infinity, 7]);
    p.acknowledge();
    expect([p.nextArrival, p.nextAcknowledged]).to.deep.equal([Infinity, Infinity]);
  });

  it('keeps order and values of any number under way, as two plain lists do', () => {
    const step = fc.oneof(
      { weight: 5, arbitrary: fc.constant('send' as const) },
      { weight: 3, arbitrary: fc.constant('arrive' as const) },
      { weight: 2, arbitrary: fc.constant('acknowledge' as const) },
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 2500, size: 'max' }), (steps) => {
        const p = new Packets();
        const coming: number[] = [];
        const come: number[] = [];
        let n = 0;
        for (const s of steps) {
          if (s === 'send') {
            const slot = p.send(n);
            p.fetch[slot] = n * 2;
            p.size[slot] = n * 3;
            coming.push(n++);
          } else if (s === 'arrive' && coming.length > 0) {
            const slot = p.arrive();
            const i = coming.shift() as number;
            expect([p.fetch[slot], p.size[slot]]).to.deep.equal([i * 2, i * 3]);
            come.push(i);
          } else if (s === 'acknowledge' && come.length > 0) {
            const slot = p.acknowledge();
            const i = come.shift() as number;
            expect([p.fetch[slot], p.size[slot]]).to.deep.equal([i * 2, i * 3]);
          }
          expect(p.nextArrival).to.equal(coming[0] ?? Infinity);
          expect(p.nextAcknowledged).to.equal(come[0] ?? Infinity);
        }
        p.clear();
        expect([p.nextArrival, p.nextAcknowledged]).to.deep.equal([Infinity, Infinity]);
      }),
      { numRuns: 40 },
    );
  });
});
