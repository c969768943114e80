import { fileName } from '../capture/url';
import { setAttribute } from './edits';
import { offerEach, type FixKind } from './fix';
import { fetchesOf } from './graphEdits';

/** A stylesheet is fetched without holding back the first paint: media that does not match until it is in. */
export const styleNonblocking: FixKind = {
  id: 'style-nonblocking',
  title: 'Let a stylesheet come later',
  order: 41,
  effort: 45,
  offer(findings, context) {
    return offerEach(this, findings, context, 'style-blocking', (f) => ({
      title: `Let ${fileName(f.target)} come later`,
      group: f.target,
    }));
  },
  onGraph(graph, fix) {
    const ids = new Set(
      fix.target === '*' ? graph.styles.map((s) => s.fetch) : fetchesOf(graph, fix.target).map((f) => f.id),
    );
    const changed = graph.styles.filter((s) => s.blocking && ids.has(s.fetch));
    if (changed.length === 0) return graph;
    const fetchIds = new Set(changed.map((s) => s.fetch));
    return {
      ...graph,
      styles: graph.styles.map((s) => (changed.includes(s) ? { ...s, blocking: false } : s)),
      fetches: graph.fetches.map((f) => (fetchIds.has(f.id) ? { ...f, priority: 0 } : f)),
    };
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.mentions
      .filter((m) => m.kind === 'style' && m.element.tag === 'link' && (fix.target === '*' || m.url === fix.target))
      .flatMap((m) => {
        const media = m.element.attributes.get('media') ?? 'all';
        const edit = setAttribute(document.url, m.element, 'media', 'print');
        return [{ ...edit, text: `${edit.text} onload="this.media='${media.replace(/[^a-z0-9 ():,.-]/gi, '')}'"` }];
      });
  },
};
