import { fileName } from '../capture/url';
import { readingOnly } from '../checks/weight/textUnminified';
import { type FixKind, type OfferContext, aboutOwnFiles, offerEach, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';

/** What a minifier takes off beyond comments and indentation, as a share: white space inside lines, long names. */
const SHARE_OF_REST = 0.25;

/** What it does to the graph. */
export const minifyGraph: GraphEdit = {
  order: 59,
  onGraph(graph, fix) {
    const ids = new Set(fetchesOf(graph, fix.target).map((f) => f.id));
    return editFetches(graph, (f) => {
      if ((f.kind !== 'script' && f.kind !== 'style') || !(fix.target === '*' || ids.has(f.id))) return f;
      const bytes = fix.values.bytes ?? Math.round(f.bodyBytes * (1 - SHARE_OF_REST));
      if (bytes >= f.bodyBytes) return f;
      return { ...f, bodyBytes: bytes, decodedBytes: Math.round((f.decodedBytes * bytes) / f.bodyBytes) };
    });
  },
};

/** Styles and scripts without what only people read. `bytes`: the size as it then travels. */
export const minify: FixKind = {
  id: 'minify',
  title: 'Minify text',
  ...minifyGraph,
  effort: 20,
  offer(findings, context) {
    return offerEach(this, aboutOwnFiles(findings, context), context, 'text-unminified', (f) => {
      const bytes = context.sizes.minified?.get(f.evidence.load?.index ?? -1);
      return {
        title: `Minify ${fileName(f.target)}`,
        group: f.target,
        values: bytes === undefined ? undefined : { bytes },
      };
    });
  },
  // The build does it.
  onSource: () => [],
  onServer(fix, { page }: OfferContext) {
    return page.capture.loads
      .filter((l) => (l.kind === 'script' || l.kind === 'style') && l.status === 200)
      .filter((l) => (fix.target === '*' ? readingOnly(page.bodies.text(l) ?? '') > 500 : l.url === fix.target))
      .map((l) => ({ do: 'minify', url: l.url }));
  },
};
