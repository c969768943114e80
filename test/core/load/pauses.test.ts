import { expect } from 'chai';
import fc from 'fast-check';
import { growDocument } from '../../../src/core/fixes/growDocument';
import type { FetchNode, LoadGraph } from '../../../src/core/load/graph';
import { serverFaster } from '../../../src/core/fixes/serverFaster';
import { makeFix } from '../../../src/core/fixes/fix';
import { auditOf, capture, har, PAGE } from '../../fixtures/har';
import { DOCUMENT, fetchNode, graphOf, LINK, replay } from '../../fixtures/graph';

/** A page whose server sends a share of the document and goes on later. */
const paused = (pauses: FetchNode['pauses'], fetches: readonly FetchNode[] = [], values: Partial<LoadGraph> = {}) => {
  const graph = graphOf(fetches, values);
  return { ...graph, fetches: [{ ...DOCUMENT, pauses }, ...graph.fetches.slice(1)] };
};
const end = (graph: LoadGraph, id = 0, link = LINK) => replay(graph, link).fetches[id]?.endMs ?? NaN;

describe('core/load: a server that pauses while it sends the document', () => {
  it('ends it no sooner than it goes on, and begins it as soon', () => {
    const [at, without] = [replay(paused([{ share: 0.3, ms: 900 }])), replay(paused(undefined))];
    // What it sends first is a TLS record of its own, and a smaller one.
    expect(at.milestones.ttfbMs).to.be.within(without.milestones.ttfbMs - 10, without.milestones.ttfbMs);
    const firstMs = at.fetches[0]?.firstByteMs ?? 0;
    expect(at.fetches[0]?.endMs).to.be.within(firstMs + 900, firstMs + 920);
  });

  it('lets the browser ask for what the first part names', () => {
    const picture = fetchNode(1, { discovery: { by: 'scanner', offset: 1000 } });
    const late = fetchNode(2, { discovery: { by: 'scanner', offset: 15_000 } });
    const r = replay(paused([{ share: 0.3, ms: 900 }], [picture, late]));
    expect(r.fetches[1]?.foundMs).to.be.below((r.milestones.ttfbMs ?? 0) + 150);
    expect(r.fetches[2]?.foundMs).to.be.above((r.milestones.ttfbMs ?? 0) + 900);
  });

  it('paints first what the first part shows, and a hero of the second part after that', () => {
    const hero = { kind: 'text' as const, fetch: -1, offset: 12_000, builtBy: -1, font: -1 };
    const { fcpMs, lcpMs } = replay(paused([{ share: 0.3, ms: 900 }], [], { hero })).milestones;
    expect(lcpMs - fcpMs).to.be.within(600, 950);
  });

  it('makes no difference where the link is slower than the server', () => {
    const slow = { ...LINK, downKbps: 400 };
    const whole = end(paused(undefined), 0, slow);
    expect(end(paused([{ share: 0.5, ms: 60 }]), 0, slow)).to.be.closeTo(whole, 5);
  });

  it('is never sooner with pauses, and delivers all bytes, however many there are', () => {
    const pause = fc.record({
      share: fc.double({ min: 0, max: 0.99, noNaN: true }),
      ms: fc.integer({ min: 1, max: 3000 }),
    });
    fc.assert(
      fc.property(fc.array(pause, { maxLength: 6 }), (made) => {
        const pauses = made
          .sort((a, b) => a.ms - b.ms)
          .map((p, i, all) => ({ ...p, share: Math.max(...all.slice(0, i + 1).map((q) => q.share)) }));
        const r = replay(paused(pauses));
        expect(r.fetches[0]?.endMs).to.be.at.least(end(paused(undefined)) - 0.01);
        expect(r.milestones.bytes).to.equal(replay(paused(undefined)).milestones.bytes);
      }),
      { numRuns: 60 },
    );
  });

  it('moves with what is written into the document, and goes when the server gets faster', () => {
    const graph = paused([{ share: 0.5, ms: 900 }]);
    const share = (g: LoadGraph) => g.fetches[0]?.pauses?.[0]?.share;
    expect(share(growDocument(graph, 100, 5000, 20_000))).to.equal(0.75);
    expect(share(growDocument(graph, 15_000, 5000, 20_000))).to.equal(0.25);
    const { page } = auditOf('<!doctype html><title>x</title><p>hello');
    const fix = makeFix({ kind: serverFaster, page, target: '*', findings: [], title: '', group: '' });
    expect(share(serverFaster.onGraph(graph, fix))).to.equal(undefined);
  });

  it('is read from a recording, pauses that follow on one another only', () => {
    const read = (pauses: object[]) =>
      capture(har([{ url: PAGE, body: '<p>x', lens: { pauses } }])).capture.loads[0]?.pauses;
    const good = [
      { share: 0, ms: 200 },
      { share: 0.5, ms: 900 },
    ];
    expect(read(good)).to.deep.equal(good);
    expect(read([...good, { share: 0.4, ms: 950 }, { share: 1, ms: 990 }, { share: 0.7, ms: 10 }])).to.deep.equal(good);
    expect(read([])).to.equal(undefined);
    expect(() => read([{ share: 'half', ms: 2 }])).to.throw(/share/);
  });
});
