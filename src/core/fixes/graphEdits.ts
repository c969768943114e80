import { finalFetch, type FetchNode, type LoadGraph } from '../load/graph';

/** A graph with some fetches changed; the same graph when `change` returns every one as it was. */
export function editFetches(graph: LoadGraph, change: (fetch: FetchNode) => FetchNode): LoadGraph {
  let touched = false;
  const fetches = graph.fetches.map((f) => {
    const next = change(f);
    if (next !== f) touched = true;
    return next;
  });
  return touched ? { ...graph, fetches } : graph;
}

/** Fetches that a target names: by URL, or by its https twin when the browser upgraded it. */
export function fetchesOf(graph: LoadGraph, target: string): FetchNode[] {
  const secure = target.replace(/^http:/, 'https:');
  const exact = graph.fetches.filter((f) => f.url === target);
  return exact.length > 0 ? exact : graph.fetches.filter((f) => f.url === secure);
}

/** True when a target is the hero, by its own address or by one that redirects to it. */
export function isHero(graph: LoadGraph, target: string): boolean {
  if (graph.hero.fetch < 0) return false;
  return (
    target === '*' ||
    graph.hero.url === target ||
    fetchesOf(graph, target).some((f) => finalFetch(graph, f.id) === finalFetch(graph, graph.hero.fetch))
  );
}
