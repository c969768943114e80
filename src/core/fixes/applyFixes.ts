import type { LoadGraph } from '../load/graph';
import type { Fix, FixKindId, GraphEdit } from './fix';
import { heroEagerGraph } from './heroEager';
import { heroPreloadGraph } from './heroPreload';
import { heroPriorityGraph } from './heroPriority';
import { httpUpgradeGraph } from './httpUpgrade';
import { imageResizeGraph } from './imageResize';
import { offscreenLazyGraph } from './offscreenLazy';
import { redirectSkipGraph } from './redirectSkip';
import { scriptDeferGraph } from './scriptDefer';
import { styleNonblockingGraph } from './styleNonblocking';
import { textCompressGraph } from './textCompress';
import { scriptAsyncGraph } from './scriptAsync';
import { styleInlineCriticalGraph } from './styleInlineCritical';
import { styleRemoveUnusedGraph } from './styleRemoveUnused';
import { importFlattenGraph } from './importFlatten';
import { minifyGraph } from './minify';
import { preconnectGraph } from './preconnect';
import { fontPreloadGraph } from './fontPreload';
import { fontSwapGraph } from './fontSwap';
import { fontConvertGraph } from './fontConvert';
import { selfHostGraph } from './selfHost';
import { cachePolicyGraph } from './cachePolicy';
import { dimensionsGraph } from './dimensions';
import { contentInHtmlGraph } from './contentInHtml';
import { serverFasterGraph } from './serverFaster';
import { hstsFixGraph } from './hsts';

/**
 * Every kind's edit of the graph. They stand apart from the edits of source, so that a forecast in the browser does
 * not bring along what reads HTML and CSS.
 */
const EDITS: Readonly<Record<FixKindId, GraphEdit>> = {
  'hero-eager': heroEagerGraph,
  'hero-preload': heroPreloadGraph,
  'hero-priority': heroPriorityGraph,
  'http-upgrade': httpUpgradeGraph,
  'image-resize': imageResizeGraph,
  'offscreen-lazy': offscreenLazyGraph,
  'redirect-skip': redirectSkipGraph,
  'script-defer': scriptDeferGraph,
  'style-nonblocking': styleNonblockingGraph,
  'text-compress': textCompressGraph,
  'script-async': scriptAsyncGraph,
  'style-inline-critical': styleInlineCriticalGraph,
  'style-remove-unused': styleRemoveUnusedGraph,
  'import-flatten': importFlattenGraph,
  minify: minifyGraph,
  preconnect: preconnectGraph,
  'font-preload': fontPreloadGraph,
  'font-swap': fontSwapGraph,
  'font-convert': fontConvertGraph,
  'self-host': selfHostGraph,
  'cache-policy': cachePolicyGraph,
  dimensions: dimensionsGraph,
  'server-faster': serverFasterGraph,
  'content-in-html': contentInHtmlGraph,
  hsts: hstsFixGraph,
};

/** A stored fix may be of a kind that is no more: it then changes nothing. */
const editOf = (kind: string): GraphEdit | undefined => (EDITS as Readonly<Record<string, GraphEdit>>)[kind];

/**
 * The graph with fixes applied. They are applied in the order of their kinds, then of their
 * targets, so that the order in which they were chosen never matters.
 */
export function applyFixes(graph: LoadGraph, fixes: readonly Fix[]): LoadGraph {
  const orderOf = (fix: Fix) => editOf(fix.kind)?.order ?? 0;
  return [...fixes]
    .filter((f) => f.page === graph.page || f.page === '*')
    .sort((a, b) => orderOf(a) - orderOf(b) || (a.target < b.target ? -1 : a.target > b.target ? 1 : 0))
    .reduce((g, fix) => editOf(fix.kind)?.onGraph(g, fix) ?? g, graph);
}
