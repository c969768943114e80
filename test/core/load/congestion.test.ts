import { expect } from 'chai';
import { lost, newWindow, rested } from '../../../src/core/load/congestion';

describe('core/load/congestion', () => {
  it('goes on with slow start after a rest, where that never ended (RFC 5681, 4.1; Linux)', () => {
    const w = { ...newWindow(), segments: 16, lastSentAt: 0 };
    rested(w, 2000, 150);
    expect(w.segments).to.equal(10);
    expect(w.threshold).to.equal(Infinity);
  });

  it('raises a threshold that was set to three quarters of the window before the rest', () => {
    const w = { ...newWindow(), segments: 80, lastSentAt: 0 };
    lost(w, 0, 150, 0);
    const [segments, threshold] = [w.segments, w.threshold];
    w.segments = 120;
    rested(w, 400, 150);
    expect(threshold).to.equal(segments);
    expect(w.threshold).to.equal(90);
    expect(w.segments).to.be.below(120);
  });

  it('leaves the window alone while there is no rest', () => {
    const w = { ...newWindow(), segments: 40, lastSentAt: 1000 };
    rested(w, 1200, 150);
    expect(w.segments).to.equal(40);
  });
});
