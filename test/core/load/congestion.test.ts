import { expect } from 'chai';
import { acknowledged, lost, newWindow } from '../../../src/core/load/congestion';

describe('core/load/congestion', () => {
  const grow = (queuedMs: number, packets: number, everyMs = 5, round = 10) => {
    const w = newWindow();
    for (let i = 0; i < packets; i++) acknowledged(w, 100 + i * everyMs, 100, 1, i, i + round, queuedMs, true);
    return w;
  };

  it('starts with ten segments and doubles each round (RFC 6928; RFC 5681, 3.1)', () => {
    expect(newWindow().segments).to.equal(10);
    expect(grow(0, 10).segments).to.equal(20);
  });

  it('leaves slow start when the first packets of a round have queued (RFC 9406, 4.2)', () => {
    expect(grow(40, 100).segments).to.be.below(30);
    expect(grow(0, 100).segments).to.equal(110);
  });

  it('leaves it on a long train of acknowledgements too', () => {
    expect(grow(0, 200, 1, 300).segments).to.be.below(100);
    expect(grow(0, 200, 4, 300).segments).to.equal(210);
  });

  it('shrinks once a round trip when something is lost, and grows back towards that (RFC 9438)', () => {
    const w = grow(0, 50);
    lost(w, 1000, 100, 0);
    expect(w.segments).to.be.closeTo(42, 0.01);
    lost(w, 1050, 100, 0);
    expect(w.segments).to.be.closeTo(42, 0.01);
    for (let i = 0; i < 3000; i++) acknowledged(w, 1100 + i * 2, 100, 1, 100 + i, 200 + i, 0, true);
    expect(w.segments).to.be.above(60);
  });

  it('does not grow while the sender has nothing to send (RFC 7661)', () => {
    const w = newWindow();
    for (let i = 0; i < 40; i++) acknowledged(w, i, 100, 1, i, i + 1, 0, false);
    expect(w.segments).to.equal(10);
  });
});
