import { offerForHero, type FixKind } from './fix';
import { editFetches, isHero } from './graphEdits';
import { inAttribute, insertInHead } from './head';

/** A preload of the hero at the top of the head (HTML, 4.6.8.20, link type preload). */
export const heroPreload: FixKind = {
  id: 'hero-preload',
  title: 'Preload the hero',
  order: 31,
  effort: 5,
  offer(findings, context) {
    const checks = ['hero-lazy', 'hero-late'];
    return offerForHero(
      this,
      findings,
      context,
      context.hero.element?.tag === 'img' ? checks : [...checks, 'hero-priority'],
    );
  },
  onGraph(graph, fix) {
    if (!isHero(graph, fix.target)) return graph;
    const { hero } = graph;
    const was = graph.fetches[hero.fetch]?.discovery;
    if (!was) return graph;
    const edited = editFetches(graph, (f) =>
      f.id === hero.fetch
        ? {
            ...f,
            discovery: { by: 'scanner', offset: graph.document.hintOffset },
            priority: 3,
            inViewport: true,
            holdsLoad: true,
          }
        : f,
    );
    // The file comes early, but its element still gets it only when whatever kept it back has run.
    const builtBy = was.by === 'script' ? was.script : hero.builtBy;
    const afterEvent = was.by === 'event' ? was.event : hero.afterEvent;
    return { ...edited, hero: { ...hero, builtBy, afterEvent } };
  },
  onSource(fix, { page, hero }) {
    const url = fix.target === '*' ? (hero.load?.url ?? hero.url) : fix.target;
    if (!page.document || !url) return [];
    return insertInHead(
      page.document,
      `<link rel="preload" as="image" href="${inAttribute(url)}" fetchpriority="high">`,
    );
  },
};
