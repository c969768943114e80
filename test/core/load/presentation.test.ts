import { expect } from 'chai';
import { BROWSER } from '../../../src/core/load/browser';
import { presentationOf } from '../../../src/core/load/presentation';
import { fetchNode, graphOf, ms } from '../../fixtures/graph';

const recorded = { bytes: 0, requests: 1, fcpMs: 500, lcpMs: 900, fcpPaintMs: 460, lcpPaintMs: 820 };

describe('core/load/presentation: from a frame’s work to the screen', () => {
  it('is taken from the run in which it was shortest', () => {
    const otherRuns = [
      { fcpMs: 700, fcpPaintMs: 670, lcpMs: 1200, lcpPaintMs: 1090 },
      { fcpMs: 480, fcpPaintMs: 480, lcpMs: 880 },
    ];
    expect(presentationOf({ ...recorded, otherRuns }, 0)).to.deep.equal({ firstMs: 30, heroMs: 80 });
  });

  it('leaves out drawing the hero’s own picture, which counts by itself', () => {
    const drawnMs = BROWSER.drawFixedMsPerMillion;
    expect(presentationOf(recorded, 1e6)).to.deep.equal({ firstMs: 40, heroMs: 80 - drawnMs });
    const together = { ...recorded, lcpMs: 500, lcpPaintMs: 460 };
    expect(presentationOf(together, 1e6)).to.deep.equal({ firstMs: 40 - drawnMs, heroMs: 40 - drawnMs });
  });

  it('is neither less than a frame takes nor as much as another frame’s work', () => {
    expect(presentationOf({ ...recorded, fcpPaintMs: 499, lcpPaintMs: 1 }, 20e6)).to.deep.equal({
      firstMs: 8,
      heroMs: 400,
    });
  });

  it('is not known where nobody looked', () => {
    expect(presentationOf({ ...recorded, fcpPaintMs: undefined, lcpPaintMs: undefined }, 0)).to.deep.equal({
      firstMs: undefined,
      heroMs: undefined,
    });
  });

  it('decides when frames are seen, each of the two its own', () => {
    const hero = fetchNode(1, { bodyBytes: 200_000, inViewport: true });
    const page = graphOf([hero], { hero: { kind: 'image', fetch: 1, offset: 3000, builtBy: -1, font: -1 } });
    const [unknown, known] = [ms(page), ms({ ...page, presentation: { firstMs: 20, heroMs: 130 } })];
    expect(known.fcpMs - unknown.fcpMs).to.be.closeTo(20 - BROWSER.presentMs, 0.01);
    expect(known.lcpMs - unknown.lcpMs).to.be.closeTo(130 - BROWSER.presentMs, 0.01);
  });
});
