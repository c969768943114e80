import { expect } from 'chai';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import type { FetchNode, LoadGraph } from '../../../src/core/load/graph';
import { PERTURBATIONS } from '../../../src/core/load/range';
import { simulate } from '../../../src/core/load/simulate';
import { auditOf, PAGE, picture } from '../../fixtures/har';
import { fetchNode, graphOf, LINK } from '../../fixtures/graph';

describe('core/load: pictures that the first layout sees', () => {
  /** A page of pictures one below the other, each 600 px high. */
  const audit = (names: string, attributes: string) =>
    auditOf(
      `<!doctype html><body><h1>Beds</h1>${[...names].map((n) => `<img src="/${n}.jpg" alt="" ${attributes}>`).join('')}</body>`,
      [...names].map((n, i) => ({ url: `${PAGE}${n}.jpg`, bytes: 40_000, start: 60 + i })),
      {
        pictures: [...names].map((n, i) =>
          picture(`${PAGE}${n}.jpg`, {
            path: `html:nth-of-type(1)>body:nth-of-type(1)>img:nth-of-type(${i + 1})`,
            box: { x: 0, y: 100 + 600 * i, width: 400, height: 600 },
          }),
        ),
      },
    );
  const graph = (attributes: string) => audit('abc', attributes).graph;
  const seen = (g: LoadGraph) => g.fetches.filter((f) => f.inViewport || f.seenAtFirst).map((f) => f.url.at(-5));

  it('are those below pictures without room as well', () => {
    expect(seen(graph(''))).to.deep.equal(['a', 'b', 'c']);
    expect(graph('').fetches.map((f) => f.seenAtFirst === true)).to.deep.equal([false, false, false, true]);
    expect(seen(graph('width="400" height="600"'))).to.deep.equal(['a', 'b']);
  });

  it('are fetched at once although they are lazy and end up far below: the first layout decides', () => {
    const far = (attributes: string) => {
      const { graph: g, fixes } = audit('abcdefgh', attributes);
      const lazy = fixes.filter((f) => f.kind === 'offscreen-lazy');
      expect(lazy).to.have.length(1);
      return applyFixes(g, lazy).fetches.filter((f) => f.discovery.by === 'never').length;
    };
    expect(far('')).to.equal(0);
    expect(far('width="400" height="600"')).to.equal(4);
  });

  /** The hero is the fourth of twelve pictures that are raised together, on six connections. */
  const crowd = graphOf(
    Array.from({ length: 12 }, (_, i) =>
      fetchNode(1 + i, {
        protocol: 'h1',
        bodyBytes: 60_000,
        inViewport: true,
        discovery: { by: 'scanner', offset: 3000 + 10 * i },
      } satisfies Partial<FetchNode>),
    ),
    { hero: { kind: 'image', fetch: 10, offset: 3000, builtBy: -1, font: -1 } },
  );

  it('come in another order in each draw, and in none before what was as urgent from the start', () => {
    const ends = PERTURBATIONS.map((p) => simulate(crowd, LINK, p).fetches[10]?.sentMs ?? 0);
    expect(Math.max(...ends) - Math.min(...ends)).to.be.above(100);
    const urgent = {
      ...crowd,
      fetches: crowd.fetches.map((f) => (f.id === 10 ? { ...f, priority: 3 as const } : f)),
    };
    for (const p of PERTURBATIONS.slice(0, 6)) {
      const { fetches } = simulate(urgent, LINK, p);
      const sent = fetches.slice(1).map((f) => f.sentMs);
      expect([...sent].sort((a, b) => a - b).indexOf(fetches[10]?.sentMs ?? -1)).to.be.below(7);
    }
  });
});
