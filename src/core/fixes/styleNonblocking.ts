import { fileName } from '../capture/url';
import type { LoadGraph } from '../load/graph';
import type { Page } from '../source/page';
import { setAttribute, type Edit } from './edits';
import { offerEach, type FixKind, type GraphEdit } from './fix';
import { fetchesOf } from './graphEdits';

/** What it does to the graph. */
export const styleNonblockingGraph: GraphEdit = {
  order: 41,
  onGraph(graph, fix) {
    return withoutBlocking(
      graph,
      new Set(fix.target === '*' ? graph.styles.map((s) => s.fetch) : fetchesOf(graph, fix.target).map((f) => f.id)),
    );
  },
};

/** A stylesheet is fetched without holding back the first paint: media that does not match until it is in. */
export const styleNonblocking: FixKind = {
  id: 'style-nonblocking',
  title: 'Load a stylesheet without blocking',
  ...styleNonblockingGraph,
  effort: 45,
  offer(findings, context) {
    return offerEach(this, findings, context, 'style-blocking', (f) => ({
      title: `Load ${fileName(f.target)} without blocking`,
      group: f.target,
    }));
  },
  onSource(fix, { page }) {
    return withoutBlockingSource(page, fix.target);
  },
};

/** The graph in which these stylesheets block nothing. */
export function withoutBlocking(graph: LoadGraph, fetches: ReadonlySet<number>): LoadGraph {
  const changed = graph.styles.filter((s) => s.blocking && fetches.has(s.fetch));
  if (changed.length === 0) return graph;
  const ids = new Set(changed.map((s) => s.fetch));
  return {
    ...graph,
    styles: graph.styles.map((s) => (changed.includes(s) ? { ...s, blocking: false } : s)),
    // The scanner passes over sheets for other media; the parser asks for them.
    fetches: graph.fetches.map((f) =>
      ids.has(f.id) && 'offset' in f.discovery
        ? { ...f, priority: 0, discovery: { by: 'parser', offset: f.discovery.offset } }
        : f,
    ),
  };
}

/** Links with media that does not match until the sheet is in. */
export function withoutBlockingSource(page: Page, target: string): Edit[] {
  const { document } = page;
  if (!document) return [];
  return page.mentions
    .filter((m) => m.kind === 'style' && m.element.tag === 'link' && (target === '*' || m.url === target))
    .map((m) => {
      const media = m.element.attributes.get('media') ?? 'all';
      const edit = setAttribute(document.url, m.element, 'media', 'print');
      return { ...edit, text: `${edit.text} onload="this.media='${media.replace(/[^a-z0-9 ():,.-]/gi, '')}'"` };
    });
}
