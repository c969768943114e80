import { fileName } from '../capture/url';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';
import { inAttribute, insertInHead } from './head';

/** What it does to the graph. */
export const fontPreloadGraph: GraphEdit = {
  order: 34,
  onGraph(graph, fix) {
    const ids = new Set(
      (fix.target === '*' ? graph.fetches : fetchesOf(graph, fix.target))
        .filter((f) => f.kind === 'font' && f.discovery.by !== 'scanner')
        .map((f) => f.id),
    );
    return editFetches(graph, (f) =>
      ids.has(f.id)
        ? {
            ...f,
            discovery: { by: 'scanner', offset: graph.document.hintOffset },
            ...(f.discovery.by === 'style' && f.discovery.sheet >= 0 && { ruleIn: f.discovery.sheet }),
            priority: 3,
            holdsLoad: true,
          }
        : f,
    );
  },
};

/** A font is asked for at once (HTML, 4.6.8.20, link type preload; fonts are fetched with CORS). */
export const fontPreload: FixKind = {
  id: 'font-preload',
  title: 'Preload a font',
  ...fontPreloadGraph,
  effort: 5,
  offer(findings, context) {
    const byTarget = new Map<string, (typeof findings)[number][]>();
    for (const f of findings)
      if (f.check === 'font-late' || f.check === 'hero-text-font')
        byTarget.set(f.target, [...(byTarget.get(f.target) ?? []), f]);
    return [...byTarget].map(([target, own]) =>
      makeFix({
        kind: this,
        page: context.page,
        target,
        findings: own,
        title: `Preload ${fileName(target)}`,
        group: target,
      }),
    );
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.capture.loads
      .filter((l) => l.kind === 'font' && (fix.target === '*' || l.url === fix.target))
      .flatMap((l) => {
        const type = /\.woff2(?:$|\?)/.test(l.url) ? ' type="font/woff2"' : '';
        return insertInHead(document, `<link rel="preload" as="font"${type} href="${inAttribute(l.url)}" crossorigin>`);
      });
  },
};
