import { fileName } from '../capture/url';
import { setAttribute } from './edits';
import { offerEach, type FixKind } from './fix';
import { withScriptMode } from './scriptMode';

/** Scripts run after parsing, in order (HTML, 4.12.1, defer). */
export const scriptDefer: FixKind = {
  id: 'script-defer',
  title: 'Defer scripts',
  order: 43,
  effort: 20,
  offer(findings, context) {
    return offerEach(this, findings, context, 'script-blocking', (f) => ({
      title: `Defer ${fileName(f.target)}`,
      group: f.target,
    }));
  },
  onGraph(graph, fix) {
    return withScriptMode(graph, fix.target, ['sync'], 'defer');
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.scripts
      .filter((s) => s.mode === 'sync' && s.url && (fix.target === '*' || s.url === fix.target))
      .map((s) => ({ ...setAttribute(document.url, s.element, 'defer', ''), text: ' defer' }));
  },
};
