import { parse, type DefaultTreeAdapterTypes } from 'parse5';
import { resolveUrl } from '../capture/url';
import { readablePart } from './readable';

/** One element of the source as served, in document order. Offsets are UTF-16 positions in the text. */
export interface SourceElement {
  readonly index: number;
  readonly tag: string;
  readonly attributes: ReadonlyMap<string, string>;
  /** Where each attribute stands, `name="value"` as a whole. */
  readonly attributePlaces: ReadonlyMap<string, { readonly start: number; readonly end: number }>;
  /** Start of the start tag, and just past its end. */
  readonly start: number;
  readonly startTagEnd: number;
  /** Just past the end tag (or the last thing inside). */
  readonly end: number;
  readonly line: number;
  readonly column: number;
  readonly parent: number;
  /** Selector path from the root, `html:nth-of-type(1)>body:nth-of-type(1)>...`. */
  readonly path: string;
  readonly inHead: boolean;
  /** Inside noscript or template: scripting browsers do not load from here. */
  readonly inert: boolean;
  /** Text content of style, script, title and headings. */
  readonly text?: string;
  /** Its node in the parser's tree, for matching selectors. */
  readonly node: TreeElement;
}

/** A page's source, parsed once and shared by checks, graph and fixes. */
export interface SourceDocument {
  readonly url: string;
  readonly text: string;
  readonly elements: readonly SourceElement[];
  /**
   * Elements that the parser adds without a tag in the source (html, head, body, tbody). They have no place, and
   * negative indexes: styles apply to them, edits cannot.
   */
  readonly implied: readonly SourceElement[];
  /** True without a doctype: classes and ids then match in any case (Selectors 4, 6.6 and 6.7). */
  readonly quirks: boolean;
  /** Base for relative references: the first `<base href>`, else the document's address (HTML, 2.4.3). */
  readonly baseUrl: string;
  /** Offset where the body's content starts. */
  readonly bodyStart: number;
  readonly byPath: ReadonlyMap<string, SourceElement>;
}

/** Where something new goes at the top of the head: behind charset and viewport; undefined without a head in the source. */
export function topOfHead(document: SourceDocument): number | undefined {
  const head = document.elements.find((e) => e.tag === 'head');
  if (!head) return undefined;
  const after = document.elements
    .filter(
      (e) => e.tag === 'meta' && e.inHead && (e.attributes.has('charset') || e.attributes.get('name') === 'viewport'),
    )
    .at(-1);
  return after?.startTagEnd ?? head.startTagEnd;
}

type Node = DefaultTreeAdapterTypes.Node;
type Element = DefaultTreeAdapterTypes.Element;

/** A node of the parser's tree. */
export type TreeNode = Node;
/** An element of the parser's tree. */
export type TreeElement = Element;

const templateOf = new WeakMap<object, Element>();

/** The parent of a tree node; for what stands at the top of a template's content, that template. */
export function treeParent(node: TreeElement): TreeNode | null {
  const parent = node.parentNode;
  return parent && !('tagName' in parent) ? (templateOf.get(parent) ?? parent) : parent;
}

/** Where the first text that is a child of an element stands, behind spaces; undefined where it has none of its own. */
export function ownText(element: SourceElement): number | undefined {
  for (const child of element.node.childNodes) {
    if (child.nodeName !== '#text' || !('value' in child)) continue;
    const within = child.value.search(/\S/);
    if (within >= 0 && child.sourceCodeLocation) return child.sourceCodeLocation.startOffset + within;
  }
  return undefined;
}

/** Where the inner HTML of an element with an end tag ends. */
export const innerEnd = (text: string, element: Pick<SourceElement, 'startTagEnd' | 'end'>): number =>
  Math.max(element.startTagEnd, text.lastIndexOf('</', element.end - 1));

/** Characters of text that are children of an element, without spaces around them. */
export function ownTextLength(element: SourceElement): number {
  let length = 0;
  for (const child of element.node.childNodes)
    if (child.nodeName === '#text' && 'value' in child) length += child.value.trim().length;
  return length;
}

const TEXT_TAGS = new Set(['style', 'script', 'title', 'h1', 'h2', 'p']);

/**
 * Parses HTML as a browser would (HTML Standard, section 13.2, by parse5) and lists its elements
 * with their places, as far as a text is read at all. Elements that the parser adds by itself (an absent html or head) have no place: they stand in
 * `implied`. Nesting deeper than 1,000 levels is cut.
 */
export function parseDocument(text: string, url: string): SourceDocument {
  const root = parse(readablePart(text), { sourceCodeLocationInfo: true, scriptingEnabled: true });
  const elements: SourceElement[] = [];
  const implied: SourceElement[] = [];
  const byPath = new Map<string, SourceElement>();
  let bodyStart = -1;

  // An explicit stack: hostile nesting must not exhaust the call stack.
  interface Frame {
    node: Node;
    parent: number;
    path: string;
    inHead: boolean;
    inert: boolean;
    depth: number;
  }
  const stack: Frame[] = [];
  const pushChildren = (nodes: readonly Node[], frame: Omit<Frame, 'node'>) => {
    const counts = new Map<string, number>();
    const frames: Frame[] = [];
    for (const node of nodes) {
      if (!('tagName' in node)) continue;
      const n = (counts.get(node.tagName) ?? 0) + 1;
      counts.set(node.tagName, n);
      const step = `${node.tagName}:nth-of-type(${n})`;
      frames.push({ ...frame, node, path: frame.path ? `${frame.path}>${step}` : step });
    }
    for (let i = frames.length - 1; i >= 0; i--) stack.push(frames[i] as Frame);
  };
  pushChildren(root.childNodes, { parent: -1, path: '', inHead: false, inert: false, depth: 0 });
  while (stack.length > 0) {
    const frame = stack.pop() as Frame;
    const el = frame.node as Element;
    const tag = el.tagName;
    const place = el.sourceCodeLocation;
    let self = frame.parent;
    const inHead = frame.inHead || tag === 'head';
    if (tag === 'body' && bodyStart < 0) bodyStart = place?.startTag?.endOffset ?? place?.startOffset ?? -1;
    if (place) {
      self = elements.length;
      const element: SourceElement = {
        index: self,
        tag,
        attributes:
          el.attrs.length === 0
            ? NO_ATTRIBUTES
            : new Map(el.attrs.map((a) => [a.prefix ? `${a.prefix}:${a.name}` : a.name, a.value])),
        attributePlaces: el.attrs.length === 0 ? NO_PLACES : placesOf(place.startTag),
        start: place.startOffset,
        startTagEnd: place.startTag?.endOffset ?? place.endOffset,
        end: place.endOffset,
        line: place.startLine,
        column: place.startCol,
        parent: frame.parent,
        path: frame.path,
        inHead,
        inert: frame.inert,
        text: TEXT_TAGS.has(tag) ? textOf(el) : undefined,
        node: el,
      };
      elements.push(element);
      byPath.set(frame.path, element);
    } else implied.push(impliedElement(el, -2 - implied.length, frame));
    const inert = frame.inert || tag === 'noscript' || tag === 'template';
    if (frame.depth < 1000) {
      const content = 'content' in el ? (el as DefaultTreeAdapterTypes.Template).content : undefined;
      if (content) templateOf.set(content, el);
      const children = content ? content.childNodes : el.childNodes;
      pushChildren(children, { parent: self, path: frame.path, inHead, inert, depth: frame.depth + 1 });
    }
  }
  const ordered = inOrder(elements, byPath);
  const base = ordered.find((e) => e.tag === 'base' && e.attributes.has('href'))?.attributes.get('href');
  const firstInBody = ordered.find((e) => !e.inHead && !['html', 'head', 'body'].includes(e.tag));
  return {
    url,
    text,
    elements: ordered,
    implied,
    quirks: root.mode === 'quirks',
    baseUrl: base === undefined ? url : (resolveUrl(base, url) ?? url),
    bodyStart: bodyStart >= 0 ? bodyStart : (firstInBody?.start ?? text.length),
    byPath,
  };
}

function impliedElement(
  node: Element,
  index: number,
  at: { readonly parent: number; readonly path: string; readonly inHead: boolean; readonly inert: boolean },
): SourceElement {
  const { parent, path, inHead, inert } = at;
  return {
    index,
    tag: node.tagName,
    attributes: NO_ATTRIBUTES,
    attributePlaces: NO_PLACES,
    start: -1,
    startTagEnd: -1,
    end: -1,
    line: 0,
    column: 0,
    parent,
    path,
    inHead: inHead || node.tagName === 'head',
    inert,
    node,
  };
}

const NO_ATTRIBUTES: ReadonlyMap<string, string> = new Map();
const NO_PLACES: SourceElement['attributePlaces'] = new Map();

function placesOf(startTag: object | undefined): SourceElement['attributePlaces'] {
  const attrs = (startTag as { attrs?: Record<string, { startOffset: number; endOffset: number }> } | undefined)?.attrs;
  const out = new Map<string, { start: number; end: number }>();
  for (const name in attrs) {
    const at = attrs[name];
    if (at) out.set(name, { start: at.startOffset, end: at.endOffset });
  }
  return out;
}

/** Elements by their place in the source; the tree's order is another where the parser moved content out of tables. */
function inOrder(elements: SourceElement[], byPath: Map<string, SourceElement>): SourceElement[] {
  if (elements.every((e, i) => i === 0 || (elements[i - 1] as SourceElement).start <= e.start)) return elements;
  elements.sort((a, b) => a.start - b.start);
  const position = new Map(elements.map((e, i) => [e.index, i]));
  const ordered = elements.map((e, i) => ({ ...e, index: i, parent: position.get(e.parent) ?? -1 }));
  for (const e of ordered) byPath.set(e.path, e);
  return ordered;
}

function textOf(el: Element): string {
  let out = '';
  for (const child of el.childNodes) {
    if (child.nodeName === '#text') out += (child as DefaultTreeAdapterTypes.TextNode).value;
    else if ('childNodes' in child && out.length < 2000) out += textOf(child as Element);
  }
  return out;
}

let known: { text: string; starts: number[] } | undefined;

/** Offsets at which lines begin; those of the text asked for last are kept. */
function lineStarts(text: string): readonly number[] {
  if (known?.text === text) return known.starts;
  const starts = [0];
  for (let i = text.indexOf('\n'); i >= 0; i = text.indexOf('\n', i + 1)) starts.push(i + 1);
  known = { text, starts };
  return starts;
}

/** 1-based line and column of an offset. */
export function placeOf(text: string, offset: number): { line: number; column: number } {
  const starts = lineStarts(text);
  let low = 0;
  let high = starts.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((starts[middle] as number) <= offset) low = middle;
    else high = middle - 1;
  }
  return { line: low + 1, column: offset - (starts[low] as number) + 1 };
}

/** The text of one 1-based line, trimmed; of a line over 200 characters what stands around the 1-based column. */
export function lineText(text: string, line: number, column = 1): string {
  const starts = lineStarts(text);
  const start = starts[line - 1];
  if (start === undefined) return '';
  const end = line < starts.length ? (starts[line] as number) - 1 : text.length;
  if (end - start <= 1000) {
    const whole = text.slice(start, end).trim();
    if (whole.length <= 200) return whole;
  }
  const from = Math.max(start, start + column - 1 - 40);
  const piece = text.slice(from, Math.min(end, from + 198)).trim();
  return `${from > start ? '…' : ''}${piece}${from + 198 < end ? '…' : ''}`;
}

/** How a person names an element: `div.banner › img.later`. */
export function elementLabel(document: SourceDocument, element: SourceElement): string {
  const own = stepLabel(element);
  const parent = document.elements[element.parent];
  return parent && !['html', 'body', 'head'].includes(parent.tag) ? `${stepLabel(parent)} › ${own}` : own;
}

function stepLabel(element: SourceElement): string {
  const id = element.attributes.get('id');
  if (id) return `${element.tag}#${id}`;
  const first = element.attributes.get('class')?.trim().split(/\s+/)[0];
  return first ? `${element.tag}.${first}` : element.tag;
}
