import { offscreenPictures } from '../checks/weight/offscreen';
import { placesAtFirst } from '../load/earlyView';
import { setAttribute } from './edits';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import { editFetches } from './graphEdits';

/** Below this distance from the first screen browsers fetch lazy pictures all the same, in CSS pixels. */
export const LAZY_DISTANCE_PX = 1250;

/** What it does to the graph. */
export const offscreenLazyGraph: GraphEdit = {
  order: 50,
  onGraph(graph, fix) {
    const measured = Object.keys(fix.values).length > 0;
    return editFetches(graph, (f) => {
      if (
        f.kind !== 'image' ||
        f.id === graph.hero.fetch ||
        (f.discovery.by !== 'scanner' && f.discovery.by !== 'parser')
      )
        return f;
      if (fix.target !== '*' && f.url !== fix.target) return f;
      const distance = fix.values[String(f.load)];
      if (fix.target === '*' && (measured ? distance === undefined : f.inViewport)) return f;
      const far = distance !== undefined && distance > LAZY_DISTANCE_PX;
      return {
        ...f,
        holdsLoad: false,
        priority: 1,
        discovery: far ? { by: 'never' } : { by: 'layout', offset: f.discovery.offset },
      };
    });
  },
};

/** Pictures outside the first screen get loading=lazy (HTML, 2.5.7). Values name how far away each is. */
export const offscreenLazy: FixKind = {
  id: 'offscreen-lazy',
  title: 'Lazy-load pictures below the fold',
  ...offscreenLazyGraph,
  effort: 15,
  offer(findings, context) {
    const own = findings.filter((f) => f.check === 'offscreen-eager' || f.check === 'picture-hidden');
    if (own.length === 0) return [];
    const { page, hero } = context;
    // The first layout decides what is near: before pictures without room have come, what stands below them is.
    const tops = new Map(placesAtFirst(page).map((p) => [p.load, p.top]));
    const values: Record<string, number> = {};
    for (const { load, distance } of offscreenPictures(page, hero.url)) {
      const below = Math.max(0, (tops.get(load.index) ?? Infinity) - page.capture.conditions.screenHeight);
      values[String(load.index)] = Number.isFinite(distance) ? Math.min(distance, below) : 1e9;
    }
    return [
      makeFix({
        kind: this,
        page: context.page,
        target: '*',
        findings: own,
        title: this.title,
        group: 'pictures',
        values,
      }),
    ];
  },
  onSource(fix, { page, hero }) {
    const { document } = page;
    if (!document) return [];
    return offscreenPictures(page, hero.url)
      .filter((p) => fix.target === '*' || p.load.url === fix.target)
      .map((p) => setAttribute(document.url, p.element, 'loading', 'lazy'));
  },
};
