import { fileName, hostOf } from '../capture/url';
import { uncompressedTexts } from '../checks/weight/textUncompressed';
import { offerEach, type FixKind, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';

/** What it does to the graph. */
export const textCompressGraph: GraphEdit = {
  order: 61,
  onGraph(graph, fix) {
    const text = new Set(['document', 'style', 'script', 'data', 'manifest']);
    const ids = new Set(
      fix.target === '*'
        ? graph.fetches.filter((f) => text.has(f.kind) && f.bodyBytes >= f.decodedBytes * 0.9).map((f) => f.id)
        : fetchesOf(graph, fix.target).map((f) => f.id),
    );
    return editFetches(graph, (f) => {
      if (!ids.has(f.id)) return f;
      const bytes = fix.values.bytes ?? Math.round(f.bodyBytes * 0.27);
      return bytes < f.bodyBytes ? { ...f, bodyBytes: bytes } : f;
    });
  },
};

/** Text is sent with gzip. `bytes`: its compressed size. */
export const textCompress: FixKind = {
  id: 'text-compress',
  title: 'Compress text',
  ...textCompressGraph,
  effort: 10,
  offer(findings, context) {
    return offerEach(this, findings, context, 'text-uncompressed', (f) => ({
      title: `Compress ${fileName(f.target)}`,
      group: hostOf(f.target),
      values: { bytes: f.evidence.numbers.bytes ?? 0 },
      changes: f.target,
    }));
  },
  // A setting of the server.
  onSource: () => [],
  onServer(fix, { page }) {
    return uncompressedTexts(page.capture)
      .filter((l) => fix.target === '*' || l.url === fix.target)
      .map((l) => ({ do: 'compress', url: l.url }));
  },
};
