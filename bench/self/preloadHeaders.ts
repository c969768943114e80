import { editFetches } from '../../src/core/fixes/graphEdits';
import type { FetchNode, LoadGraph } from '../../src/core/load/graph';
import type { Visitor } from '../../src/core/load/visitors';
import { changeOf, errorShareOf } from '../../src/core/plan/forecast';

/** Files that a `Link: rel=preload` header (RFC 8288; HTML, 4.6.8.20) could name, beside the markup that names them now. */
export const PRELOADS = {
  'stylesheets and fonts': (f: FetchNode) => f.kind === 'style' || f.kind === 'font',
  'modules of the islands': (f: FetchNode) => f.kind === 'script',
  'pictures of the first screen': (f: FetchNode) => f.kind === 'image' && f.inViewport,
} as const;

export type Preload = keyof typeof PRELOADS;
export const PRELOAD_NAMES = Object.keys(PRELOADS) as Preload[];

/**
 * What headers with a page would change for a visitor, by our own forecast: the files that they name are asked for as
 * soon as the headers of the page are there. In ms, less is better.
 */
export function preloadChange(graph: LoadGraph, what: Preload, visitor: Visitor): { fcpMs: number; lcpMs: number } {
  const headed = editFetches(graph, (f) => (PRELOADS[what](f) ? { ...f, discovery: { by: 'scanner', offset: 0 } } : f));
  return changeOf(graph, headed, visitor, errorShareOf(graph)).change;
}
