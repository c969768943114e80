import { deferredAttribute, heroGuise } from '../checks/hero/heroFacts';
import { insertAt, removeAttribute, setAttribute, type Edit } from './edits';
import { offerForHero, type FixKind } from './fix';
import { editFetches, isHero } from './graphEdits';

const LOADER_CLASS = /^(lazy|lazyload|later|defer|deferred|unveil|b-lazy)$/i;

/** The hero stands in the markup as a plain picture, so that the scanner finds it. */
export const heroEager: FixKind = {
  id: 'hero-eager',
  title: 'Make the hero eager',
  order: 30,
  effort: 10,
  offer(findings, context) {
    return offerForHero(this, findings, context, ['hero-lazy']);
  },
  onGraph(graph, fix) {
    if (!isHero(graph, fix.target)) return graph;
    const { hero } = graph;
    const now = graph.fetches[hero.fetch];
    if (!now || now.discovery.by === 'scanner') return graph;
    const edited = editFetches(graph, (f) =>
      f.id === hero.fetch
        ? { ...f, discovery: { by: 'scanner', offset: hero.offset }, holdsLoad: true, inViewport: true }
        : f,
    );
    return { ...edited, hero: { ...hero, kind: 'image', builtBy: -1, afterEvent: undefined } };
  },
  onSource(fix, { page, hero, sizes }): Edit[] {
    const { document } = page;
    if (!document) return [];
    const url = document.url;
    const element = hero.element;
    const guise = heroGuise({ page, hero, sizes });
    if (guise === 'attribute' && element) return removeAttribute(url, document.text, element, 'loading');
    if (guise === 'data' && element) {
      const name = deferredAttribute(element);
      const edits = [setAttribute(url, element, element.tag === 'video' ? 'poster' : 'src', fix.target)];
      if (name) edits.push(...removeAttribute(url, document.text, element, name));
      const classes = (element.attributes.get('class') ?? '').split(/\s+/).filter(Boolean);
      const kept = classes.filter((c) => !LOADER_CLASS.test(c));
      if (kept.length === classes.length) return edits;
      return [
        ...edits,
        ...(kept.length > 0
          ? [setAttribute(url, element, 'class', kept.join(' '))]
          : removeAttribute(url, document.text, element, 'class')),
      ];
    }
    // A background or a picture built by a script: it becomes an img inside its box.
    const box = guise === 'background' ? (element ?? page.elementAt(hero.path)) : parentInSource(page, hero.path);
    const img = `<img src="${fix.target.replace(/&/g, '&amp;').replace(/"/g, '&quot;')}" alt="">`;
    return box ? [insertAt(url, box.startTagEnd, img)] : [];
  },
};

function parentInSource(page: Parameters<FixKind['onSource']>[1]['page'], path: string | undefined) {
  let at = path ?? '';
  while (at.includes('>')) {
    at = at.slice(0, at.lastIndexOf('>'));
    const element = page.elementAt(at);
    if (element) return element;
  }
  return undefined;
}
