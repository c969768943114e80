import type { Page } from '../source/page';
import { offerForHero, type FixKind } from './fix';
import { editFetches, isHero } from './graphEdits';
import { inAttribute, insertInHead } from './head';
import { namingTheEnd, skipHop } from './redirectSkip';

/**
 * A preload of the hero at the top of the head (HTML, 4.6.8.20, link type preload). It serves an element only that asks
 * for the same address: a hero behind a redirect is named by where that ends, in both places, or it would load twice.
 */
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
  onGraph(recorded, fix) {
    if (!isHero(recorded, fix.target)) return recorded;
    let graph = recorded;
    // What a stylesheet names keeps its address there, so the preload has to name the same: see onSource.
    const byStyle = recorded.fetches[recorded.hero.fetch]?.discovery.by === 'style';
    while (!byStyle && graph.fetches[graph.hero.fetch]?.redirectTo !== undefined)
      graph = skipHop(graph, graph.hero.fetch);
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
    const [asked = url] = hopsTo(page, url);
    const renamed = asked === url ? [] : namingTheEnd(page, asked);
    // An address that no markup names stands in a stylesheet or a script, which goes on asking for it.
    const address = renamed.length > 0 ? url : asked;
    return [
      ...renamed,
      ...insertInHead(
        page.document,
        `<link rel="preload" as="image" href="${inAttribute(address)}" fetchpriority="high">`,
      ),
    ];
  },
};

/** Addresses whose redirects end at one, the first first; that one alone when none does. */
function hopsTo(page: Page, url: string): string[] {
  const out = [url];
  for (let n = 0; n < 20; n++) {
    const before = page.capture.loads.find((l) => l.redirectTo === out[0] && !out.includes(l.url));
    if (!before) break;
    out.unshift(before.url);
  }
  return out;
}
