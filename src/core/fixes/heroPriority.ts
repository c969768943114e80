import { setAttribute } from './edits';
import { makeFix, type FixKind } from './fix';
import { editFetches, isHero } from './graphEdits';

/** fetchpriority="high" on the hero (HTML, 2.5.9 fetch priority attributes). */
export const heroPriority: FixKind = {
  id: 'hero-priority',
  title: 'Mark the hero as urgent',
  order: 32,
  effort: 5,
  offer(findings, context) {
    const own = findings.filter((f) => f.check === 'hero-priority' || f.check === 'hero-late');
    const first = own.find((f) => f.check === 'hero-priority');
    if (!first) return [];
    return [
      makeFix({
        kind: this,
        page: context.page,
        target: first.target,
        findings: own,
        title: this.title,
        group: 'hero',
      }),
    ];
  },
  onGraph(graph, fix) {
    if (!isHero(graph, fix.target)) return graph;
    return editFetches(graph, (f) => (f.id === graph.hero.fetch && f.priority < 3 ? { ...f, priority: 3 } : f));
  },
  onSource(_fix, { page, hero }) {
    return page.document && hero.element
      ? [setAttribute(page.document.url, hero.element, 'fetchpriority', 'high')]
      : [];
  },
};
