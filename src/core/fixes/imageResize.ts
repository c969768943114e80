import { fileName } from '../capture/url';
import type { Finding } from '../checks/finding';
import { pictureUses } from '../source/pictureUse';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';

/** What it does to the graph. */
export const imageResizeGraph: GraphEdit = {
  order: 60,
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
};

/** The picture is re-encoded, at the size in which it is displayed where it has more pixels. `bytes`: its new size. */
export const imageResize: FixKind = {
  id: 'image-resize',
  title: 'Re-encode pictures at their displayed size',
  ...imageResizeGraph,
  effort: 15,
  offer(findings, context) {
    const byTarget = new Map<string, Finding[]>();
    for (const f of findings)
      if (f.check === 'image-oversized' || f.check === 'image-heavy')
        byTarget.set(f.target, [...(byTarget.get(f.target) ?? []), f]);
    return [...byTarget].map(([target, own]) => {
      const isHeroFile = target === context.hero.load?.url;
      const smaller = own.some((f) => f.check === 'image-oversized');
      return makeFix({
        kind: this,
        page: context.page,
        target,
        findings: own,
        title: `Re-encode ${isHeroFile ? `the hero, ${fileName(target)},` : fileName(target)}${smaller ? ' at its displayed size' : ''}`,
        group: isHeroFile ? 'hero' : 'pictures',
        values: { bytes: Math.min(...own.map((f) => f.evidence.numbers.bytes ?? 0)) },
        changes: target,
      });
    });
  },
  // The change is in the file, not in the page.
  onSource: () => [],
  onServer(fix, { page }) {
    return pictureUses(page)
      .filter(({ load }) => fix.target === '*' || load.url === fix.target)
      .map(({ load, needed }) => ({ do: 'resize', url: load.url, ...needed }));
  },
};
