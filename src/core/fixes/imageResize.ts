import { fileName } from '../capture/url';
import { offerEach, type FixKind } from './fix';
import { editFetches, fetchesOf } from './graphEdits';

/** The picture is re-encoded at the size in which it is drawn. `bytes`: its new size. */
export const imageResize: FixKind = {
  id: 'image-resize',
  title: 'Re-encode pictures at drawn size',
  order: 60,
  effort: 15,
  offer(findings, context) {
    return offerEach(this, findings, context, 'image-oversized', (f) => {
      const isHeroFile = f.target === context.hero.url;
      return {
        title: isHeroFile ? 'Re-encode the hero at drawn size' : `Re-encode ${fileName(f.target)}`,
        group: isHeroFile ? 'hero' : 'pictures',
        values: { bytes: f.evidence.numbers.bytes ?? 0 },
      };
    });
  },
  onGraph(graph, fix) {
    const ids = new Set(fetchesOf(graph, fix.target).map((f) => f.id));
    return editFetches(graph, (f) => {
      if (!ids.has(f.id)) return f;
      const bytes = fix.values.bytes ?? Math.round(f.bodyBytes * 0.4);
      if (bytes >= f.bodyBytes) return f;
      const share = bytes / Math.max(1, f.bodyBytes);
      return { ...f, bodyBytes: bytes, decodedBytes: bytes, decodeMs: f.decodeMs * share };
    });
  },
  // The change is in the file, not in the page.
  onSource: () => [],
};
