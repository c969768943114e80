import { isThirdParty } from '../capture/site';
import { fileName } from '../capture/url';
import type { LoadGraph } from '../load/graph';
import type { Page } from '../source/page';
import { renameMention, renameReference } from './addressEdits';
import type { Edit } from './edits';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import { fetchesOf } from './graphEdits';

/** What it does to the graph. */
export const redirectSkipGraph: GraphEdit = {
  order: 10,
  onGraph(graph, fix) {
    const hops =
      fix.target === '*'
        ? graph.fetches.filter((f) => f.redirectTo !== undefined)
        : fetchesOf(graph, fix.target).filter((f) => f.redirectTo !== undefined);
    return hops.reduce((g, hop) => skipHop(g, hop.id), graph);
  },
};

/** What led through a redirect names its end directly. */
export const redirectSkip: FixKind = {
  id: 'redirect-skip',
  title: 'Skip the redirect',
  ...redirectSkipGraph,
  effort: 10,
  offer(findings, context) {
    const entrance = findings.filter((f) => f.check === 'http-entrance');
    return findings
      .filter((f) => f.check === 'redirect-in-front')
      .map((f) =>
        makeFix({
          kind: this,
          page: context.page,
          target: f.target,
          findings: [f, ...entrance.filter((e) => e.target === f.target)],
          title: `Skip the redirect at ${fileName(f.target)}`,
          group: f.target,
        }),
      );
  },
  onSource(fix, { page }) {
    const hops = fix.target === '*' ? page.capture.loads.filter((l) => l.redirectTo).map((l) => l.url) : [fix.target];
    return hops.flatMap((url) => [...namingTheEnd(page, url), ...stylesNamingTheEnd(page, url)]);
  },
};

/** Edits by which the markup that names an address names the end of its redirects instead. */
export function namingTheEnd(page: Page, url: string): Edit[] {
  const { document } = page;
  const end = page.loadOf(url);
  if (!document || !end) return [];
  return page.mentionsOf(url).flatMap((m) => renameMention(page, m, end.url));
}

/** Edits by which stylesheets name the end of an address's redirects. */
function stylesNamingTheEnd(page: Page, url: string): Edit[] {
  const end = page.loadOf(url);
  if (!end) return [];
  return page.styles
    .filter((s) => !isThirdParty(page, s.url))
    .flatMap((s) => s.references.filter((r) => r.url === url).flatMap((r) => renameReference(page, s, r, end.url)));
}

/** Takes a hop out: what led to it leads to what it led to. */
export function skipHop(graph: LoadGraph, id: number): LoadGraph {
  const hop = graph.fetches[id];
  const next = hop?.redirectTo;
  if (!hop || next === undefined) return graph;
  const swap = (n: number) => (n === id ? next : n);
  return {
    ...graph,
    fetches: graph.fetches.map((f) => {
      if (f.id === next) return { ...f, discovery: hop.discovery };
      if (f.id === id) return { ...f, redirectTo: undefined, discovery: { by: 'never' } };
      return f.redirectTo === id ? { ...f, redirectTo: next } : f;
    }),
    scripts: graph.scripts.map((s) => ({
      ...s,
      fetch: swap(s.fetch),
      ...(s.after?.by === 'fetch' && { after: { ...s.after, fetch: swap(s.after.fetch) } }),
    })),
    styles: graph.styles.map((s) => ({ ...s, fetch: swap(s.fetch) })),
    hero: { ...graph.hero, fetch: swap(graph.hero.fetch) },
  };
}
