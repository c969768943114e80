import { hostOf, originOf } from '../capture/url';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import type { LoadGraph } from '../load/graph';
import { inAttribute, insertInHead } from './head';

/** What it does to the graph. */
export const preconnectGraph: GraphEdit = {
  order: 33,
  onGraph(graph, fix) {
    const offset = graph.document.hintOffset;
    const added = targets(graph, fix.target).filter(
      (t) =>
        !graph.preconnects.some(
          (p) => p.origin === t.origin && (p.anonymous ?? false) === t.anonymous && p.offset <= offset,
        ),
    );
    return added.length === 0
      ? graph
      : { ...graph, preconnects: [...graph.preconnects, ...added.map((t) => ({ ...t, offset }))] };
  },
};

/** A connection to another host is made early (HTML, 4.6.8.18, link type preconnect). */
export const preconnect: FixKind = {
  id: 'preconnect',
  title: 'Preconnect to a host',
  ...preconnectGraph,
  effort: 5,
  offer(findings, context) {
    const byOrigin = new Map<string, (typeof findings)[number][]>();
    for (const f of findings) {
      if (f.check !== 'hero-other-host' && f.check !== 'font-late') continue;
      const origin = originOf(f.target);
      if (origin && origin !== originOf(context.page.capture.page))
        byOrigin.set(origin, [...(byOrigin.get(origin) ?? []), f]);
    }
    return [...byOrigin].map(([origin, own]) =>
      makeFix({
        kind: this,
        page: context.page,
        target: `${origin}/`,
        findings: own,
        title: `Preconnect to ${hostOf(origin)}`,
        group: origin,
      }),
    );
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    const origins = fix.target === '*' ? foreignOrigins(page.capture) : [originOf(fix.target)];
    return origins.filter(Boolean).flatMap((origin) => {
      const fontsOnly = page.capture.loads.filter((l) => originOf(l.url) === origin).every((l) => l.kind === 'font');
      return insertInHead(
        document,
        `<link rel="preconnect" href="${inAttribute(origin)}"${fontsOnly ? ' crossorigin' : ''}>`,
      );
    });
  },
};

function foreignOrigins(capture: { readonly page: string; readonly loads: readonly { readonly url: string }[] }) {
  const own = originOf(capture.page);
  return [...new Set(capture.loads.map((l) => originOf(l.url)).filter((o) => o !== own))];
}

/** Hosts that only fonts come from need a connection without credentials. */
function targets(graph: LoadGraph, target: string): { origin: string; anonymous: boolean }[] {
  const own = graph.fetches[graph.document.fetch]?.origin;
  const wanted = target === '*' ? undefined : originOf(target);
  const origins = new Set(graph.fetches.map((f) => f.origin).filter((o) => o && o !== own && o === (wanted ?? o)));
  return [...origins].map((origin) => ({
    origin,
    anonymous: graph.fetches.filter((f) => f.origin === origin).every((f) => f.anonymous === true),
  }));
}
