import { lazyTechnique } from '../checks/hero/heroFacts';
import type { FetchNode, LoadGraph, PriorityLevel } from '../load/graph';
import type { SourceElement } from '../source/document';
import { DEFERRED_SOURCE } from '../source/mentions';
import type { Page } from '../source/page';
import { classesOf } from '../source/selectors';
import { insertAt, removeAttribute, setAttribute, type Edit } from './edits';
import { inAttribute } from './head';
import { offerForHero, type FixKind, type GraphEdit } from './fix';
import { editFetches, isHero } from './graphEdits';

/** So many pictures of the markup are asked for at a middle priority from the start. */
const FIRST_PICTURES = 5;

/** How urgently a picture is asked for that stands in the markup at an offset, unless it is more urgent already. */
export function priorityInMarkup(graph: LoadGraph, fetch: FetchNode, offset: number): PriorityLevel {
  const ahead = graph.fetches.filter(
    (f) => f.kind === 'image' && f.discovery.by === 'scanner' && f.discovery.offset < offset,
  ).length;
  return Math.max(fetch.priority, ahead < FIRST_PICTURES ? 2 : 1) as PriorityLevel;
}

const LOADER_CLASS = /^(lazy|lazyload|later|defer|deferred|unveil|b-lazy)$/i;

/** What it does to the graph. */
export const heroEagerGraph: GraphEdit = {
  order: 30,
  onGraph(graph, fix) {
    if (!isHero(graph, fix.target)) return graph;
    const { hero } = graph;
    const now = graph.fetches[hero.fetch];
    if (!now || now.discovery.by === 'scanner') return graph;
    const edited = editFetches(graph, (f) =>
      f.id === hero.fetch
        ? {
            ...f,
            discovery: { by: 'scanner', offset: hero.offset },
            priority: priorityInMarkup(graph, f, hero.offset),
            holdsLoad: true,
            inViewport: true,
          }
        : f,
    );
    return { ...edited, hero: { ...hero, kind: 'image', builtBy: -1, afterEvent: undefined } };
  },
};

/** The hero stands in the markup as a plain picture, so that the scanner finds it. */
export const heroEager: FixKind = {
  id: 'hero-eager',
  title: 'Load the hero eagerly',
  ...heroEagerGraph,
  effort: 10,
  offer(findings, context) {
    return offerForHero(this, findings, context, ['hero-lazy']);
  },
  onSource(fix, { page, hero, sizes }): Edit[] {
    const { document } = page;
    if (!document) return [];
    const url = document.url;
    const element = hero.element;
    const target = fix.target === '*' ? (hero.url ?? '') : fix.target;
    const technique = lazyTechnique({ page, hero, sizes });
    if (technique === 'attribute' && element) return removeAttribute(url, document.text, element, 'loading');
    if (technique === 'data' && element)
      return [...realSource(page, element, target), ...withoutLoaderClass(page, element)];
    if (technique === 'background') return behindContent(url, element ?? page.elementAt(hero.path), target);
    // It stands in the markup as it should: another one beside it would be shown twice.
    if (technique === 'none' && element) return [];
    // A picture built by a script: it stands in the markup from the start.
    const box = parentInSource(page, hero.path);
    return box ? [insertAt(url, box.startTagEnd, `<img src="${inAttribute(target)}" alt="">`)] : [];
  },
};

/** Addresses, candidates and sizes move from the data attributes of a loader to where the browser reads them. */
function realSource(page: Page, element: SourceElement, target: string): Edit[] {
  const { document } = page;
  if (!document) return [];
  const deferred = [...element.attributes].filter(([name]) => DEFERRED_SOURCE.test(name) || name === 'data-sizes');
  const candidates = deferred.filter(([name, value]) => /-(srcset|sizes)$/.test(name) && value !== 'auto');
  const srcset = candidates.some(([name]) => name.endsWith('-srcset'));
  // With candidates alone there is no address to write but one of them.
  const single = deferred.find(([name, value]) => !/-(srcset|sizes)$/.test(name) && /[./]/.test(value));
  const attribute = element.tag === 'video' ? 'poster' : 'src';
  return [
    ...(single || !srcset
      ? [setAttribute(document.url, element, attribute, single && srcset ? single[1] : target)]
      : []),
    ...candidates.map(([name, value]) =>
      setAttribute(document.url, element, name.slice(name.lastIndexOf('-') + 1), value),
    ),
    ...deferred.flatMap(([name]) => removeAttribute(document.url, document.text, element, name)),
  ];
}

function withoutLoaderClass(page: Page, element: SourceElement): Edit[] {
  const { document } = page;
  if (!document) return [];
  const classes = classesOf(element);
  const kept = classes.filter((c) => !LOADER_CLASS.test(c));
  if (kept.length === classes.length) return [];
  return kept.length > 0
    ? [setAttribute(document.url, element, 'class', kept.join(' '))]
    : removeAttribute(document.url, document.text, element, 'class');
}

/** The picture as an element that fills the box from behind, as its background did. */
function behindContent(url: string, box: SourceElement | undefined, target: string): Edit[] {
  if (!box) return [];
  const style = box.attributes.get('style')?.trim().replace(/;?$/, ';') ?? '';
  return [
    setAttribute(url, box, 'style', `${style}position:relative;z-index:0`),
    insertAt(
      url,
      box.startTagEnd,
      `<img src="${inAttribute(target)}" alt="" style="position:absolute;z-index:-1;inset:0;width:100%;height:100%;object-fit:cover">`,
    ),
  ];
}

function parentInSource(page: Page, path: string | undefined) {
  let at = path ?? '';
  while (at.includes('>')) {
    at = at.slice(0, at.lastIndexOf('>'));
    const element = page.elementAt(at);
    if (element) return element;
  }
  return undefined;
}
