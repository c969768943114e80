import { fileName } from '../capture/url';
import { type FixKind, aboutOwnFiles, offerEach, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';
import { cutsOf } from './styleCuts';

/** What it does to the graph. */
export const styleRemoveUnusedGraph: GraphEdit = {
  order: 58,
  onGraph(graph, fix) {
    const ids = new Set(fetchesOf(graph, fix.target).map((f) => f.id));
    return editFetches(graph, (f) => {
      if (f.kind !== 'style' || !(fix.target === '*' || ids.has(f.id))) return f;
      const bytes = fix.values.bytes ?? Math.round(f.bodyBytes * 0.4);
      if (bytes >= f.bodyBytes) return f;
      return { ...f, bodyBytes: bytes, decodedBytes: Math.round((f.decodedBytes * bytes) / f.bodyBytes) };
    });
  },
};

/** Rules that match nothing on the page are taken out of a sheet. `bytes`: its size as it then travels. */
export const styleRemoveUnused: FixKind = {
  id: 'style-remove-unused',
  title: 'Remove unused rules',
  ...styleRemoveUnusedGraph,
  effort: 120,
  offer(findings, context) {
    return offerEach(this, aboutOwnFiles(findings, context), context, 'style-unused', (f) => {
      const sheet = context.page.styles.find((s) => s.load?.index === f.evidence.load?.index);
      const cut = sheet ? cutsOf(context.page, sheet, 'page').reduce((n, e) => n + e.end - e.start, 0) : 0;
      const left = 1 - cut / Math.max(1, sheet?.text.length ?? 1);
      return {
        title: `Remove unused rules from ${fileName(f.target)}`,
        group: f.target,
        values: { bytes: Math.round((f.evidence.load?.bytes ?? 0) * left) },
      };
    });
  },
  onSource(fix, { page }) {
    return page.styles
      .filter((s) => s.load && (fix.target === '*' || s.load.url === fix.target))
      .flatMap((s) => cutsOf(page, s, 'page'));
  },
};
