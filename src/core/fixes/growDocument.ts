import type { Discovery, FetchNode, LoadGraph } from '../load/graph';

/** The graph of a document into which bytes were written at an offset: everything behind it comes later. */
export function growDocument(graph: LoadGraph, offset: number, bytes: number, decoded: number): LoadGraph {
  const moved = (n: number) => (n > offset ? n + decoded : n);
  const found = (d: Discovery): Discovery => ('offset' in d ? { ...d, offset: moved(d.offset) } : d);
  const page = graph.document.fetch;
  const size = graph.document.decodedBytes;
  const pausesOf = ({ pauses }: FetchNode) =>
    pauses && { pauses: pauses.map((p) => ({ ...p, share: moved(p.share * size) / Math.max(1, size + decoded) })) };
  return {
    ...graph,
    fetches: graph.fetches.map((f) =>
      f.id === page
        ? { ...f, bodyBytes: f.bodyBytes + bytes, decodedBytes: f.decodedBytes + decoded, ...pausesOf(f) }
        : { ...f, discovery: found(f.discovery) },
    ),
    scripts: graph.scripts.map((s) => ({ ...s, offset: moved(s.offset) })),
    styles: graph.styles.map((s) => ({ ...s, offset: moved(s.offset) })),
    preconnects: graph.preconnects.map((p) => ({ ...p, offset: moved(p.offset) })),
    hero: { ...graph.hero, offset: moved(graph.hero.offset) },
    document: {
      ...graph.document,
      decodedBytes: graph.document.decodedBytes + decoded,
      hintOffset: moved(graph.document.hintOffset),
      bodyOffset: moved(graph.document.bodyOffset),
      contentOffset: moved(graph.document.contentOffset),
    },
  };
}
