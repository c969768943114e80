import { fileName } from '../capture/url';
import { removeAttribute, setAttribute } from './edits';
import { offerEach, type FixKind, type GraphEdit } from './fix';
import { withScriptMode } from './scriptMode';

/** What it does to the graph. */
export const scriptAsyncGraph: GraphEdit = {
  order: 42,
  onGraph(graph, fix) {
    return withScriptMode(graph, fix.target, ['sync', 'defer'], 'async');
  },
};

/** A script runs whenever it has come, and nothing waits for it (HTML, 4.12.1, async). */
export const scriptAsync: FixKind = {
  id: 'script-async',
  title: 'Load a script async',
  ...scriptAsyncGraph,
  effort: 15,
  offer(findings, context) {
    // Own scripts often build on each other: those are deferred. What another company counts or shows stands alone.
    const isAsync = (url: string) => context.page.scripts.some((s) => s.url === url && s.mode === 'async');
    const foreign = findings.filter((f) => f.evidence.numbers.thirdParty === 1 && !isAsync(f.target));
    return offerEach(this, foreign, context, 'script-blocking', (f) => ({
      title: `Load ${fileName(f.target)} async`,
      group: f.target,
    }));
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.scripts
      .filter((s) => (s.mode === 'sync' || s.mode === 'defer') && s.url && (fix.target === '*' || s.url === fix.target))
      .flatMap((s) => [
        { ...setAttribute(document.url, s.element, 'async', ''), text: ' async' },
        ...removeAttribute(document.url, document.text, s.element, 'defer'),
        ...removeAttribute(document.url, document.text, s.element, 'blocking'),
      ]);
  },
};
