import { expect } from 'chai';
import fc from 'fast-check';
import type { FetchNode, LoadGraph } from '../../../src/core/load/graph';
import { changeOf } from '../../../src/core/plan/forecast';
import { fetchNode, graphOf, LINK, script, style } from '../../fixtures/graph';

const size = fc.integer({ min: 800, max: 180_000 });

/** A page with a sheet and a script in the head, and pictures of which the first is the hero. */
const pages = fc
  .record({
    sheet: size,
    code: size,
    pictures: fc.array(size, { minLength: 2, maxLength: 9 }),
    protocol: fc.constantFrom('h1' as const, 'h2' as const),
  })
  .map(({ sheet, code, pictures, protocol }): LoadGraph => {
    const of = (id: number, bodyBytes: number, values: Partial<FetchNode>) =>
      fetchNode(id, { bodyBytes, decodedBytes: bodyBytes, protocol, ...values });
    return graphOf(
      [
        of(1, sheet, { kind: 'style', priority: 4, discovery: { by: 'scanner', offset: 800 } }),
        of(2, code, { kind: 'script', priority: 3, discovery: { by: 'scanner', offset: 1200 } }),
        ...pictures.map((bytes, i) =>
          of(3 + i, bytes, { discovery: { by: 'scanner', offset: 3000 + 500 * i }, inViewport: i === 0 }),
        ),
      ],
      {
        styles: [style(1)],
        scripts: [script(0, 2)],
        hero: { kind: 'image', fetch: 3, offset: 3000, builtBy: -1, font: -1 },
      },
    );
  });

const resized = (graph: LoadGraph, id: number, factor: number): LoadGraph => ({
  ...graph,
  fetches: graph.fetches.map((f) => (f.id === id ? { ...f, bodyBytes: Math.round(f.bodyBytes * factor) } : f)),
});

describe('core/plan/forecast: a small cause has a small effect', () => {
  it('one per cent of any file changes the middle forecast by a few per cent at most', () => {
    fc.assert(
      fc.property(pages, fc.nat(), fc.constantFrom(0.99, 1.01), (graph, pick, factor) => {
        const id = 1 + (pick % (graph.fetches.length - 1));
        const { change, split } = changeOf(graph, resized(graph, id, factor), LINK);
        if (split) return;
        expect(Math.abs(change.lcpMs), 'hero paint').to.be.below(80);
        expect(Math.abs(change.fcpMs), 'first paint').to.be.below(80);
      }),
      { numRuns: 40 },
    );
  });
});
