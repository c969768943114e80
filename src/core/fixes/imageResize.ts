import { fileName } from '../capture/url';
import { neededPixels } from '../checks/weight/imageOversized';
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
        changes: f.target,
      };
    });
  },
  onGraph(graph, fix) {
    const ids = new Set(
      (fix.target === '*' ? graph.fetches.filter((f) => f.kind === 'image') : fetchesOf(graph, fix.target)).map(
        (f) => f.id,
      ),
    );
    return editFetches(graph, (f) => {
      if (!ids.has(f.id)) return f;
      const bytes = fix.values.bytes ?? Math.round(f.bodyBytes * 0.4);
      if (bytes >= f.bodyBytes) return f;
      const share = bytes / Math.max(1, f.bodyBytes);
      return { ...f, bodyBytes: bytes, decodedBytes: bytes, pixels: Math.round(f.pixels * share) };
    });
  },
  // The change is in the file, not in the page.
  onSource: () => [],
  onServer(fix, { page }) {
    const { density } = page.capture.conditions;
    const largest = new Map<string, { width: number; height: number }>();
    for (const p of page.pictures) {
      const file = page.filePixels(p);
      const load = page.loadOf(p.url);
      if (!file || !load || !p.visible || (fix.target !== '*' && load.url !== fix.target)) continue;
      const needed = neededPixels(p.box.width, p.box.height, file.width, file.height, density);
      const known = largest.get(load.url);
      if (needed.width < file.width && (!known || known.width < needed.width)) largest.set(load.url, needed);
    }
    return [...largest].map(([url, size]) => ({ do: 'resize', url, ...size }));
  },
};
