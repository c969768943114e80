import { ownText, type SourceDocument, type SourceElement } from './document';
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
  const source = page.document;
  const rendered = page.rendered?.document;
  if (!source || !rendered) return [];
  const children = childrenOf(source);
  const ids = new Map(rendered.elements.flatMap((e) => (e.attributes.has('id') ? [[e.attributes.get('id'), e]] : [])));
  const same = (e: SourceElement): SourceElement | undefined => {
    const id = e.attributes.get('id');
    const found = id ? ids.get(id) : rendered.byPath.get(e.path);
    return found?.tag === e.tag ? found : undefined;
  };
  const out: RenderedPart[] = [];
  // An id that stands in the source many times is that of one element.
  const used = new Set<SourceElement>();
  const body = source.elements.find((e) => e.tag === 'body');
  // An explicit stack: hostile nesting must not exhaust the call stack.
  const stack = body ? [body] : [];
  while (stack.length > 0) {
    const element = stack.pop() as SourceElement;
    const inner = (children.get(element.index) ?? []).filter((e) => !NO_CONTENT.has(e.tag));
    if (inner.length > 0 || ownText(element) !== undefined) stack.push(...inner.reverse());
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

function childrenOf(document: SourceDocument): Map<number, SourceElement[]> {
  const out = new Map<number, SourceElement[]>();
  for (const e of document.elements) {
    const list = out.get(e.parent);
    if (list) list.push(e);
    else out.set(e.parent, [e]);
  }
  return out;
}

function partOf(rendered: SourceDocument, element: SourceElement, offset: number): RenderedPart | undefined {
  const from = element.startTagEnd;
  const to = rendered.text.lastIndexOf('</', element.end - 1);
  if (to <= from) return undefined;
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
