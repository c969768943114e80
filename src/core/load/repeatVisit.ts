import { hostOf } from '../capture/url';
import type { FetchNode, LoadGraph } from './graph';

/** A visitor who comes back after this time, in s: a day. */
export const BACK_AFTER_S = 86_400;

/** A response that says only "unchanged" (304): its header, in bytes. */
const UNCHANGED_BYTES = 180;

/**
 * The graph of a second visit a day later, with what the first one may keep (RFC 9111, 4): fresh files take no
 * network, others are asked for with their validator, and hosts with HSTS are not asked over http first (RFC 6797, 8.3).
 */
export function repeatVisit(graph: LoadGraph, afterS = BACK_AFTER_S): LoadGraph {
  const skipped = hopsSaved(graph);
  return {
    ...graph,
    fetches: graph.fetches.map((f): FetchNode => {
      if (skipped.has(f.id)) return { ...f, kept: true };
      if (f.id === graph.document.fetch || !f.keep?.store || f.refused || f.redirectTo !== undefined) return f;
      if (f.keep.freshS >= afterS) return { ...f, kept: true };
      return f.keep.validator ? { ...f, bodyBytes: 0, headerBytes: Math.min(f.headerBytes, UNCHANGED_BYTES) } : f;
    }),
  };
}

/** Redirects from http to https of a host that holds browsers to https. */
function hopsSaved(graph: LoadGraph): Set<number> {
  return new Set(
    graph.fetches
      .filter((f) => {
        const next = f.redirectTo === undefined ? undefined : graph.fetches[f.redirectTo];
        return (
          next !== undefined &&
          f.url.startsWith('http:') &&
          next.url.startsWith('https:') &&
          hostOf(f.url) === hostOf(next.url) &&
          graph.hsts.includes(hostOf(f.url))
        );
      })
      .map((f) => f.id),
  );
}
