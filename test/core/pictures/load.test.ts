import { expect } from 'chai';
import { DEFAULT_VISITOR } from '../../../src/core/load/visitors';
import { simulate } from '../../../src/core/load/simulate';
import { firstPaintPicture } from '../../../src/core/pictures/blocking';
import { heroPicture } from '../../../src/core/pictures/hero';
import { fetchNode, graphOf, ORIGIN, script, style } from '../../fixtures/graph';
import { builtPage } from '../../fixtures/builtPage';
import { faultyPage } from '../../fixtures/faultyPage';
import { PAGE } from '../../fixtures/har';

describe('core/pictures: hero and first paint', () => {
  const scanner = (offset: number) => ({ by: 'scanner', offset }) as const;
  const graph = graphOf(
    [
      fetchNode(1, { kind: 'script', priority: 3, bodyBytes: 150_000, discovery: scanner(1000) }),
      fetchNode(2, { kind: 'style', priority: 4, bodyBytes: 20_000, discovery: scanner(1100) }),
      fetchNode(3, { bodyBytes: 40_000, discovery: scanner(2600) }),
      fetchNode(4, { bodyBytes: 60_000, discovery: scanner(2800), inViewport: true }),
      fetchNode(5, { bodyBytes: 5_000, discovery: scanner(9000) }),
    ],
    {
      scripts: [script(0, 1)],
      styles: [style(2)],
      hero: { kind: 'image', fetch: 4, offset: 3000, builtBy: -1, font: -1 },
    },
  );

  it('says what went ahead of the hero, pictures that nobody sees counted apart', () => {
    const found = heroPicture(graph, DEFAULT_VISITOR, new Set([`${ORIGIN}/3`, `${ORIGIN}/5`]));
    expect(found.place).to.equal(5);
    expect(found.ahead).to.deep.equal({
      requests: 4,
      bytes: 10_200 + 150_200 + 20_200 + 40_200,
      pictures: 1,
      hidden: 1,
    });
    expect(found.foundBy).to.equal('scanner');
    expect(found.bytes).to.equal(60_200);
    expect(Object.values(found.split).reduce((a, b) => a + b, 0)).to.be.closeTo(found.lcpMs, 0.01);
    const text = { ...graph, hero: { ...graph.hero, kind: 'text' as const, fetch: -1 } };
    expect(heroPicture(text, DEFAULT_VISITOR, new Set())).to.deep.include({ place: 0, bytes: 0, foundBy: undefined });
  });

  it('draws the chain to the first paint, and says what each link is worth', () => {
    const { chain, fcpMs, withoutAllMs } = firstPaintPicture(graph, DEFAULT_VISITOR, new Map([[`${ORIGIN}/1`, 0.25]]));
    expect(fcpMs).to.equal(simulate(graph, DEFAULT_VISITOR).milestones.fcpMs);
    expect(chain[0]).to.include({ kind: 'document', fromMs: 0 });
    expect(chain.at(-1)).to.include({ step: 'paint', toMs: fcpMs });
    const file = chain.find((l) => l.step === 'fetch' && l.kind === 'script');
    expect(file).to.include({ url: `${ORIGIN}/1`, usedShare: 0.25, bytes: 150_200, thirdParty: false });
    const run = chain.find((l) => l.step === 'script');
    expect(run?.withoutMs).to.equal(file?.withoutMs);
    // The chain is one of time: no link begins after the paint, and all are in their order.
    expect(chain.map((l) => l.fromMs)).to.deep.equal(chain.map((l) => l.fromMs).sort((a, b) => a - b));
    const without = {
      ...graph,
      scripts: graph.scripts.map((s) => ({ ...s, mode: 'async' as const })),
    };
    expect(file?.withoutMs).to.be.closeTo(fcpMs - simulate(without, DEFAULT_VISITOR).milestones.fcpMs, 0.001);
    expect(withoutAllMs).to.be.at.least(file?.withoutMs ?? Infinity);
    expect(chain[0]?.withoutMs).to.equal(undefined);
  });

  it('knows the script without which there is nothing to see, and what its end would win', () => {
    const { graph: built } = builtPage();
    const { chain, fcpMs, withoutAllMs } = firstPaintPicture(built, DEFAULT_VISITOR, new Map());
    const run = chain.find((l) => l.step === 'script');
    expect(run?.url).to.equal(`${PAGE}app.js`);
    expect(run?.withoutMs).to.be.above(fcpMs / 4);
    expect(chain.find((l) => l.url === `${PAGE}app.js` && l.step === 'fetch')?.withoutMs).to.equal(run?.withoutMs);
    expect(withoutAllMs).to.be.at.least(run?.withoutMs ?? Infinity);
  });

  it('knows a script with blocking=render as one that the first paint waits for', () => {
    const held = { ...graph, scripts: [script(0, 1, { mode: 'async', holdsPaint: true })] };
    const { chain, withoutAllMs } = firstPaintPicture(held, DEFAULT_VISITOR, new Map());
    const run = chain.find((l) => l.step === 'script');
    expect(run?.withoutMs).to.be.above(200);
    expect(withoutAllMs).to.be.at.least(run?.withoutMs ?? Infinity);
  });

  it('agrees with the simulation on a real page', () => {
    const { graph: real } = faultyPage();
    const replay = simulate(real, DEFAULT_VISITOR);
    const hero = heroPicture(real, DEFAULT_VISITOR, new Set());
    expect(hero.ahead.requests).to.equal(Math.max(0, replay.heroPlace - 1));
    expect(firstPaintPicture(real, DEFAULT_VISITOR, new Map()).chain).to.have.length(replay.fcpPath.length);
  });
});
