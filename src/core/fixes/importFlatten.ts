import { sheetOf } from './fontSwap';
import { fileName } from '../capture/url';
import type { StyleNode } from '../load/graph';
import type { StyleReference } from '../source/stylesheet';
import type { Page, PageStyle } from '../source/page';
import { insertAt, type Edit } from './edits';
import { type FixKind, aboutOwnFiles, offerEach, type GraphEdit } from './fix';
import { fetchesOf } from './graphEdits';
import { inAttribute } from './head';

/** What it does to the graph. */
export const importFlattenGraph: GraphEdit = {
  order: 39,
  onGraph(graph, fix) {
    const imported = (fix.target === '*' ? graph.fetches : fetchesOf(graph, fix.target)).filter(
      (f) => f.kind === 'style' && f.discovery.by === 'style' && !f.discovery.drawn,
    );
    if (imported.length === 0) return graph;
    const ids = new Set(imported.map((f) => f.id));
    const rootOf = (id: number): StyleNode | undefined => {
      for (let at = id, n = 0; n < 20; n++) {
        const own = graph.styles.find((s) => s.fetch === at);
        const d = graph.fetches[at]?.discovery;
        if (own) return own;
        if (d?.by !== 'style' || d.sheet < 0) return undefined;
        at = d.sheet;
      }
      return undefined;
    };
    const roots = new Map(imported.map((f) => [f.id, rootOf(f.id)]));
    const first = graph.styles[0];
    const added = imported.flatMap((f): StyleNode[] => {
      const root = roots.get(f.id) ?? first;
      return root ? [{ ...root, fetch: f.id }] : [];
    });
    return {
      ...graph,
      fetches: graph.fetches.map((f) => {
        const root = roots.get(f.id) ?? first;
        return ids.has(f.id) && root ? { ...f, discovery: { by: 'scanner', offset: root.offset }, priority: 4 } : f;
      }),
      styles: [...added, ...graph.styles],
    };
  },
};

/** An imported sheet is linked in the head, before the sheet that imports it. */
export const importFlatten: FixKind = {
  id: 'import-flatten',
  title: 'Link an imported stylesheet directly',
  ...importFlattenGraph,
  effort: 15,
  offer(findings, context) {
    return offerEach(this, aboutOwnFiles(findings, context, sheetOf), context, 'import-chain', (f) => ({
      title: `Link ${fileName(f.target)} in the head`,
      group: f.target,
    }));
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.styles.flatMap((sheet) =>
      sheet.references
        .filter((r) => r.use === 'import' && (fix.target === '*' || r.url === fix.target))
        .flatMap((r): Edit[] => {
          const link = linkOf(page, sheet);
          const rule = ruleAround(sheet, r);
          if (!link || !rule || !sheet.load) return [];
          // What it imports itself stands before it, as its rules do.
          const depth = depthBelow(page, r.url);
          return [
            { url: sheet.url, ...rule, text: '' },
            insertAt(document.url, link.start, `<link rel="stylesheet" href="${inAttribute(r.url)}">`, depth),
          ];
        }),
    );
  },
};

/** The link element that, through imports, leads to a sheet. */
function linkOf(page: Page, sheet: PageStyle) {
  let at: PageStyle | undefined = sheet;
  for (let n = 0; at?.load && n < 20; n++) {
    const url: string = at.load.url;
    const link = page.mentionsOf(url).find((m) => m.element.tag === 'link' && !m.element.inert);
    if (link) return link.element;
    at = page.styles.find((s) => s.references.some((r) => r.use === 'import' && r.url === url));
  }
  return undefined;
}

function depthBelow(page: Page, url: string, seen = new Set<string>()): number {
  if (seen.has(url)) return 0;
  seen.add(url);
  const own = page.styles.find((s) => s.load?.url === url)?.references.filter((r) => r.use === 'import') ?? [];
  return own.reduce((most, r) => Math.max(most, 1 + depthBelow(page, r.url, seen)), 0);
}

/** The whole @import rule around a reference. */
function ruleAround(sheet: PageStyle, reference: StyleReference): { start: number; end: number } | undefined {
  const start = sheet.text.lastIndexOf('@import', reference.offset);
  const end = sheet.text.indexOf(';', reference.offset + reference.length);
  return start < 0 ? undefined : { start, end: end < 0 ? sheet.text.length : end + 1 };
}
