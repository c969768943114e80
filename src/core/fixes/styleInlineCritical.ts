import { fileName } from '../capture/url';
import { isRenderBlocking } from '../checks/blocking/verdict';
import type { LoadGraph } from '../load/graph';
import type { Page, PageStyle } from '../source/page';
import { insertAt } from './edits';
import { offerEach, type Fix, type FixKind, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';
import { growDocument } from './growDocument';
import { criticalText } from './styleCuts';
import { withoutBlocking, withoutBlockingSource } from './styleNonblocking';

/** Rules of the first screen against the whole sheet, where they were not cut out: the median of framework sheets. */
const SHARE_NEEDED = 0.12;

/** What it does to the graph. */
export const styleInlineCriticalGraph: GraphEdit = {
  order: 40,
  onGraph(graph, fix) {
    const styles = blockingStyles(graph, fix.target);
    if (styles.length === 0) return graph;
    const body = styles.reduce((sum, s) => sum + (graph.fetches[s.fetch]?.bodyBytes ?? 0), 0);
    const bytes = fix.values.bytes ?? Math.round(body * SHARE_NEEDED);
    const decoded = fix.values.decoded ?? bytes * 4;
    const at = Math.min(...styles.map((s) => s.offset)) - 1;
    const ids = new Set(styles.map((s) => s.fetch));
    return growDocument(namedInHead(withoutBlocking(graph, ids), ids), at, bytes, decoded);
  },
};

/**
 * Rules of the first screen are written into the head; the sheet itself comes without blocking.
 * `bytes`: by how much the transferred document grows.
 */
export const styleInlineCritical: FixKind = {
  id: 'style-inline-critical',
  title: 'Inline the critical CSS',
  ...styleInlineCriticalGraph,
  effort: 90,
  offer(findings, context) {
    return offerEach(this, findings, context, 'style-unused', (f) => ({
      title: `Inline the critical CSS of ${fileName(f.target)}`,
      group: f.target,
      values: { bytes: Math.round(f.evidence.numbers.usedBytes ?? 0) },
    }));
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return sheetsOf(page, fix).flatMap((sheet) => {
      const mention = page.mentionsOf(sheet.load?.url ?? '').find((m) => m.element.tag === 'link');
      return mention
        ? [
            insertAt(document.url, mention.element.start, `<style>${criticalText(page, sheet)}</style>`),
            ...withoutBlockingSource(page, mention.url),
          ]
        : [];
    });
  },
};

/** What the sheets name for the first screen is then named by the document itself. */
function namedInHead(graph: LoadGraph, sheets: ReadonlySet<number>): LoadGraph {
  return editFetches(graph, (f) => {
    if (f.ruleIn !== undefined && sheets.has(f.ruleIn)) return { ...f, ruleIn: undefined };
    return f.discovery.by === 'style' &&
      f.discovery.drawn &&
      sheets.has(f.discovery.sheet) &&
      (f.inViewport || f.kind === 'font' || f.id === graph.hero.fetch)
      ? { ...f, discovery: { ...f.discovery, sheet: -1 } }
      : f;
  });
}

function blockingStyles(graph: LoadGraph, target: string) {
  const ids = new Set(target === '*' ? graph.styles.map((s) => s.fetch) : fetchesOf(graph, target).map((f) => f.id));
  return graph.styles.filter((s) => s.blocking && ids.has(s.fetch));
}

/** Sheets that a fix is about: linked, blocking, and with a body to read. */
function sheetsOf(page: Page, fix: Fix): PageStyle[] {
  return page.styles.filter(
    (s) =>
      s.load &&
      (fix.target === '*' || s.load.url === fix.target) &&
      isRenderBlocking(page, s.load) &&
      page.mentionsOf(s.load.url).some((m) => m.element.tag === 'link'),
  );
}
