import { fileName } from '../capture/url';
import { removeAttribute, setAttribute } from './edits';
import type { Finding } from '../checks/finding';
import { offerEach, type FixKind, type GraphEdit, type OfferContext } from './fix';
import { withScriptMode } from './scriptMode';

/** What it does to the graph. */
export const scriptDeferGraph: GraphEdit = {
  order: 43,
  onGraph(graph, fix) {
    return withScriptMode(graph, fix.target, ['sync'], 'defer');
  },
};

const holdsPaint = ({ page }: OfferContext, { target }: Finding): boolean =>
  page.scripts.some((s) => s.url === target && s.holdsPaint);

/** Scripts run after parsing, in order (HTML, 4.12.1, defer); those that do not hold the parser lose `blocking` only. */
export const scriptDefer: FixKind = {
  id: 'script-defer',
  title: 'Defer scripts',
  ...scriptDeferGraph,
  effort: 20,
  offer(findings, context) {
    return offerEach(this, findings, context, 'script-blocking', (f) => ({
      title: holdsPaint(context, f) ? `Take blocking=render off ${fileName(f.target)}` : `Defer ${fileName(f.target)}`,
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
