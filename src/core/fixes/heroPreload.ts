import { screenOf } from '../source/media';
import { resolveUrl } from '../capture/url';
import type { Discovery } from '../load/graph';
import type { Hero } from '../load/hero';
import type { SourceDocument, SourceElement } from '../source/document';
import { candidateSet, sourcesBefore } from '../source/mentions';
import type { Page } from '../source/page';
import { parseSrcset } from '../source/srcset';
import { offerForHero, type FixKind, type GraphEdit } from './fix';
import { editFetches, isHero } from './graphEdits';
import { inAttribute, insertInHead } from './head';
import { namingTheEnd, skipHop } from './redirectSkip';

/** What it does to the graph. */
export const heroPreloadGraph: GraphEdit = {
  order: 31,
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
            discovery: { by: 'scanner', offset: Math.min(placeOf(was), graph.document.hintOffset) },
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
};

/** Where the scanner finds it already; Infinity where something else does. */
const placeOf = (was: Discovery): number => (was.by === 'scanner' ? was.offset : Infinity);

/**
 * A preload of the hero at the top of the head (HTML, 4.6.7.9, link type preload). It serves an element only that asks
 * for the same address: a hero behind a redirect is named by where that ends, in both places, or it would load twice.
 */
export const heroPreload: FixKind = {
  id: 'hero-preload',
  title: 'Preload the hero',
  ...heroPreloadGraph,
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
  onSource(fix, { page, hero }) {
    const url = fix.target === '*' ? (hero.load?.url ?? hero.url) : fix.target;
    if (!page.document || !url) return [];
    const [asked = url] = hopsTo(page, url);
    const renamed = asked === url ? [] : namingTheEnd(page, asked);
    // An address that no markup names stands in a stylesheet or a script, which goes on asking for it.
    const address = renamed.length > 0 ? url : asked;
    return [
      ...renamed,
      ...insertInHead(page.document, preloadTag(page, hero, address, asked === address ? undefined : asked)),
    ];
  },
};

/**
 * The link element. A hero with candidates is preloaded with all of them, for the screens on which the picture takes this
 * set (HTML, 4.2.4.4, imagesrcset and imagesizes): another file would be fetched in addition.
 */
function preloadTag(page: Page, hero: Hero, address: string, renamed: string | undefined): string {
  const attributes = [
    `href="${inAttribute(address)}"`,
    ...(hero.element ? ofCandidates(page, hero.element, address, renamed) : []),
  ];
  return `<link rel="preload" as="image" ${attributes.join(' ')} fetchpriority="high">`;
}

function ofCandidates(page: Page, element: SourceElement, address: string, renamed: string | undefined): string[] {
  const { document } = page;
  if (!document || element.tag !== 'img') return [];
  const written = candidateSet(document, element, screenOf(page.capture.conditions));
  // A script-driven loader keeps the set in data attributes.
  const set =
    written.srcset || written.element !== element
      ? written
      : {
          element,
          srcset: element.attributes.get('data-srcset') ?? '',
          sizes: element.attributes.get('data-sizes') ?? written.sizes,
        };
  if (/^\s*auto\b/i.test(set.sizes ?? '')) return [];
  const srcset = parseSrcset(set.srcset)
    .map((c) => {
      const named = renamed !== undefined && resolveUrl(c.url, document.baseUrl) === renamed ? address : c.url;
      return `${named} ${c.width === undefined ? `${c.density ?? 1}x` : `${c.width}w`}`;
    })
    .join(', ');
  const media = mediaOf(document, element, set.element);
  const type = set.element.attributes.get('type');
  return [
    ...(srcset ? [`imagesrcset="${inAttribute(srcset)}"`] : []),
    ...(srcset && set.sizes ? [`imagesizes="${inAttribute(set.sizes)}"`] : []),
    ...(media ? [`media="${inAttribute(media)}"`] : []),
    ...(type && set.element !== element ? [`type="${inAttribute(type)}"`] : []),
  ];
}

/** Media for which a set of a picture is taken: its own, and none of those before it. */
function mediaOf(document: SourceDocument, element: SourceElement, taken: SourceElement): string {
  const before = sourcesBefore(document, element);
  const skipped = before.slice(0, taken === element ? undefined : before.indexOf(taken));
  const conditions = [
    ...skipped.flatMap((s) => {
      const media = s.attributes.get('media')?.trim();
      return media && !media.includes(',') && media.startsWith('(') ? [`(not (${media}))`] : [];
    }),
    ...[taken.attributes.get('media')?.trim() ?? ''].filter(Boolean),
  ];
  return conditions.length > 1 && conditions.some((c) => c.includes(',')) ? '' : conditions.join(' and ');
}

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
