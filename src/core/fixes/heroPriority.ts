import { setAttribute } from './edits';
import { offerForHero, type FixKind, type GraphEdit } from './fix';
import { editFetches, isHero } from './graphEdits';

/** What it does to the graph. */
export const heroPriorityGraph: GraphEdit = {
  order: 32,
  onGraph(graph, fix) {
    if (!isHero(graph, fix.target)) return graph;
    return editFetches(graph, (f) => (f.id === graph.hero.fetch && f.priority < 3 ? { ...f, priority: 3 } : f));
  },
};

/** fetchpriority="high" on the hero (HTML, 2.5.9 fetch priority attributes). */
export const heroPriority: FixKind = {
  id: 'hero-priority',
  title: 'Set fetchpriority=high on the hero',
  ...heroPriorityGraph,
  effort: 5,
  offer(findings, context) {
    // Only an img takes fetchpriority; a poster or a picture inside an SVG is preloaded instead.
    if (context.hero.element?.tag !== 'img' || !findings.some((f) => f.check === 'hero-priority')) return [];
    return offerForHero(this, findings, context, ['hero-priority', 'hero-late']);
  },
  onSource(_fix, { page, hero }) {
    return page.document && hero.element
      ? [setAttribute(page.document.url, hero.element, 'fetchpriority', 'high')]
      : [];
  },
};
