import { innerEnd, ownText, type SourceDocument, type SourceElement } from './document';
import type { Page } from './page';

/** Content that scripts have made, and where in the source it would stand. */
export interface RenderedPart {
  /** Offset in the source. */
  readonly offset: number;
  readonly html: string;
  /** The stretch of the rendered document that it is taken from. */
  readonly from: number;
  readonly to: number;
}

/** What is no content of its own, and what must not run or load a second time. */
const NO_CONTENT = new Set(['script', 'style', 'link', 'meta', 'noscript', 'template', 'title', 'base']);
const ONLY_ONCE = new Set(['script', 'link', 'meta', 'base']);

/**
 * What scripts put into elements that the source leaves empty: for each of these the inner HTML of the same element when
 * the page had settled, without scripts. Elements are the same by id, else by their place (HTML, 13.3, serialising).
 * @returns nothing when nobody saw the rendered document, or when scripts have put nothing there
 */
export function renderedContent(page: Page): RenderedPart[] {
  const { document: source, tree } = page;
  const rendered = page.rendered?.document;
  if (!source || !tree || !rendered) return [];
  const ids = new Map(rendered.elements.flatMap((e) => (e.attributes.has('id') ? [[e.attributes.get('id'), e]] : [])));
  const same = (e: SourceElement): SourceElement | undefined => {
    const id = e.attributes.get('id');
    const found = id ? ids.get(id) : rendered.byPath.get(e.path);
    return found?.tag === e.tag ? found : undefined;
  };
  const out: RenderedPart[] = [];
  // An id that stands in the source many times is that of one element.
  const used = new Set<SourceElement>();
  const body = [...source.elements, ...source.implied].find((e) => e.tag === 'body');
  // An explicit stack: hostile nesting must not exhaust the call stack.
  const stack = body ? [body] : [];
  while (stack.length > 0) {
    const element = stack.pop() as SourceElement;
    // What stands in an implied body has no place in the tree of its own: it is found by its path.
    const all = element.index < 0 ? source.elements.filter((e) => isChild(e, element)) : tree.childrenOf(element);
    const inner = all.filter((e) => e.index >= 0 && !NO_CONTENT.has(e.tag));
    if (inner.length > 0 || element.index < 0 || ownText(element) !== undefined) stack.push(...inner.reverse());
    else {
      const twin = same(element);
      if (!twin || used.has(twin)) continue;
      used.add(twin);
      const part = partOf(rendered, twin, element.startTagEnd);
      if (part) out.push(part);
    }
  }
  return out;
}

const isChild = (e: SourceElement, parent: SourceElement): boolean =>
  e.path.startsWith(parent.path) && e.path.lastIndexOf('>') === parent.path.length;

function partOf(rendered: SourceDocument, element: SourceElement, offset: number): RenderedPart | undefined {
  const from = element.startTagEnd;
  const to = innerEnd(rendered.text, element);
  let html = '';
  let at = from;
  for (let i = element.index + 1; i < rendered.elements.length; i++) {
    const e = rendered.elements[i] as SourceElement;
    if (e.start >= to) break;
    if (e.start < at || !ONLY_ONCE.has(e.tag)) continue;
    html += rendered.text.slice(at, e.start);
    at = e.end;
  }
  html += rendered.text.slice(at, to);
  return html.trim() === '' ? undefined : { offset, html, from, to };
}
