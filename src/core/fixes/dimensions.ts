import { setAttribute } from './edits';
import { makeFix, type FixKind, type GraphEdit } from './fix';

/** What it does to the graph. */
export const dimensionsGraph: GraphEdit = {
  order: 51,
  onGraph(graph, fix) {
    const shifts = graph.shifts.filter((s) => fix.target !== '*' && graph.fetches[s.fetch]?.url !== fix.target);
    return shifts.length === graph.shifts.length ? graph : { ...graph, shifts };
  },
};

/** Pictures get width and height, so that their room is kept before they come (HTML, 4.8.3). */
export const dimensions: FixKind = {
  id: 'dimensions',
  title: 'Set width and height of pictures',
  ...dimensionsGraph,
  effort: 10,
  offer(findings, context) {
    const own = findings.filter((f) => f.check === 'image-dimensions');
    if (own.length === 0) return [];
    return [
      makeFix({ kind: this, page: context.page, target: '*', findings: own, title: this.title, group: 'pictures' }),
    ];
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page.pictures
      .filter((p) => p.use === 'img' && (fix.target === '*' || p.url === fix.target))
      .flatMap((p) => {
        const element = page.elementAt(p.path, 'img');
        const file = page.filePixels(p);
        if (!element || !file || element.attributes.has('width') || element.attributes.has('height')) return [];
        return [
          setAttribute(document.url, element, 'width', String(file.width)),
          setAttribute(document.url, element, 'height', String(file.height)),
        ];
      });
  },
};
