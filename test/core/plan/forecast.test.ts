import { expect } from 'chai';
import fc from 'fast-check';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { splitText, trustText } from '../../../src/core/handover/effectText';
import { modelErrorShare } from '../../../src/core/load/range';
import { VISITORS } from '../../../src/core/load/visitors';
import { changeOf, forecast, gapOf } from '../../../src/core/plan/forecast';
import { auditOf, PAGE } from '../../fixtures/har';
import { fetchNode, graphOf, LINK, script } from '../../fixtures/graph';

const phone = VISITORS[0] as (typeof VISITORS)[number];

describe('core/plan/forecast', () => {
  const head = fetchNode(1, { kind: 'script', priority: 3, bodyBytes: 40_000 });
  const hero = (bodyBytes: number) => fetchNode(2, { bodyBytes, inViewport: true });
  const scripts = [script(0, 1)];

  it('changes little when a size changes little, save where loads fall into two groups', () => {
    fc.assert(
      fc.property(fc.integer({ min: 20_000, max: 600_000 }), (bytes) => {
        const as = (n: number) => graphOf([head, hero(n)], { scripts });
        const change = (n: number) => changeOf(as(bytes), as(n), LINK);
        const [a, b] = [change(bytes * 0.5), change(bytes * 0.505)];
        if (a.split || b.split) return;
        expect(Math.abs(a.change.lcpMs - b.change.lcpMs)).to.be.below(40 + 0.03 * (bytes / 1000));
      }),
      { numRuns: 40 },
    );
  });

  it('spans what a file may weigh that the browser had refused and nobody has seen', () => {
    const url = 'http://maps.example/lanes.js';
    const { graph, fixes } = auditOf(
      `<!doctype html><html><head><title>Lanes</title><script src="${url}"></script></head><body><h1>Lanes</h1></body></html>`,
      [{ url, status: 0, start: 40, lens: { mixedBlocked: true, kind: 'script' } }],
      { hero: { timeMs: 300, size: 9000, tag: 'h1' } },
    );
    const upgrade = fixes.find((f) => f.kind === 'http-upgrade');
    expect(upgrade, 'offered').to.not.equal(undefined);
    const own = upgrade ? [upgrade] : [];
    expect(applyFixes(graph, own).fetches.find((f) => f.url.endsWith('lanes.js'))?.guessed).to.equal(true);
    const wide = forecast(graph, own, phone).range.fcpMs;
    const known = forecast(
      graph,
      own.map((f) => ({ ...f, values: { ...f.values, bytes: 18_000 } })),
      phone,
    ).range.fcpMs;
    expect(wide[1] - wide[0]).to.be.above(1.5 * (known[1] - known[0]));
  });

  it('widens the range where the recording itself is simulated off, and names what was missed', () => {
    expect(modelErrorShare(undefined)).to.equal(modelErrorShare(0.1));
    expect(modelErrorShare(-0.4)).to.be.above(modelErrorShare(0.2));
    const { graph } = auditOf('<!doctype html><html><body><h1>Garden</h1></body></html>', [], {
      hero: { timeMs: 4000, size: 9000, tag: 'h1' },
      lcpMs: 4000,
      fcpMs: 4000,
    });
    expect(gapOf(graph)).to.be.below(-0.5);
    expect(trustText({ gap: gapOf(graph), missed: 'hero paint (LCP)' })).to.match(
      /own hero paint \(LCP\) is simulated \d+ % too early: ranges are wider/,
    );
    expect(trustText({ gap: 0.04 })).to.match(/within 4 %/);
    expect(PAGE).to.equal(graph.page);
  });

  it('says in words that loads fall into two groups', () => {
    expect(
      splitText([
        { ofTen: 7, lcpMs: -100 },
        { ofTen: 3, lcpMs: -1600 },
      ]),
    ).to.equal(
      'Loads fall into two groups: in 7 of 10 the hero paint comes 100 ms earlier, in 3 of 10 the hero paint comes 1.6 s earlier. It depends on which of two requests goes first.',
    );
  });
});
