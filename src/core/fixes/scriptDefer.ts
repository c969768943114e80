import { fileName } from '../capture/url';
import { setAttribute } from './edits';
import { offerEach, type FixKind } from './fix';
import { fetchesOf } from './graphEdits';

/** Scripts run after parsing, in order (HTML, 4.12.1, defer). */
export const scriptDefer: FixKind = {
  id: 'script-defer',
  title: 'Defer scripts',
  order: 40,
  effort: 20,
  offer(findings, context) {
    return offerEach(this, findings, context, 'script-blocking', (f) => ({
      title: `Defer ${fileName(f.target)}`,
      group: f.target,
    }));
  },
  onGraph(graph, fix) {
    const ids = new Set(
      fix.target === '*' ? graph.scripts.map((s) => s.fetch) : fetchesOf(graph, fix.target).map((f) => f.id),
    );
    const changed = graph.scripts.filter((s) => s.mode === 'sync' && s.fetch >= 0 && ids.has(s.fetch));
    if (changed.length === 0) return graph;
    const fetchIds = new Set(changed.map((s) => s.fetch));
    return {
      ...graph,
      scripts: graph.scripts.map((s) => (changed.includes(s) ? { ...s, mode: 'defer' } : s)),
      fetches: graph.fetches.map((f) =>
        fetchIds.has(f.id) ? { ...f, priority: Math.min(f.priority, 1) as 0 | 1 } : f,
      ),
    };
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.scripts
      .filter((s) => s.mode === 'sync' && s.url && (fix.target === '*' || s.url === fix.target))
      .map((s) => ({ ...setAttribute(document.url, s.element, 'defer', ''), text: ' defer' }));
  },
};
