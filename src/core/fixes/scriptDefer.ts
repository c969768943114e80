import { fileName } from '../capture/url';
import { removeAttribute, setAttribute } from './edits';
import { offerEach, type FixKind, type GraphEdit } from './fix';
import { withScriptMode } from './scriptMode';

/** What it does to the graph. */
export const scriptDeferGraph: GraphEdit = {
  order: 43,
  onGraph(graph, fix) {
    return withScriptMode(graph, fix.target, ['sync'], 'defer');
  },
};

/** Scripts run after parsing, in order (HTML, 4.12.1, defer). */
export const scriptDefer: FixKind = {
  id: 'script-defer',
  title: 'Defer scripts',
  ...scriptDeferGraph,
  effort: 20,
  offer(findings, context) {
    return offerEach(this, findings, context, 'script-blocking', (f) => ({
      title: `Defer ${fileName(f.target)}`,
      group: f.target,
    }));
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.scripts
      .filter((s) => (s.mode === 'sync' || s.holdsPaint) && s.url && (fix.target === '*' || s.url === fix.target))
      .flatMap((s) => [
        ...(s.mode === 'sync' ? [{ ...setAttribute(document.url, s.element, 'defer', ''), text: ' defer' }] : []),
        ...removeAttribute(document.url, document.text, s.element, 'blocking'),
      ]);
  },
};
