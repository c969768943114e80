import { parse, type DefaultTreeAdapterTypes } from 'parse5';

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
}

/** A page's source, parsed once and shared by checks, graph and fixes. */
export interface SourceDocument {
  readonly url: string;
  readonly text: string;
  readonly elements: readonly SourceElement[];
  /** Base for relative references: the first `<base href>`, else the document's address (HTML, 2.4.3). */
  readonly baseUrl: string;
  /** Offset where the body's content starts. */
  readonly bodyStart: number;
  readonly byPath: ReadonlyMap<string, SourceElement>;
}

type Node = DefaultTreeAdapterTypes.Node;
type Element = DefaultTreeAdapterTypes.Element;

const TEXT_TAGS = new Set(['style', 'script', 'title', 'h1', 'h2', 'p']);

/**
 * Parses HTML as a browser would (HTML Standard, section 13.2, by parse5) and lists its elements
 * with their places. Elements that the parser made up (an absent html or head) have no place and
 * are left out, but count in paths. Nesting deeper than 1,000 levels is cut.
 */
export function parseDocument(text: string, url: string): SourceDocument {
  const root = parse(text, { sourceCodeLocationInfo: true, scriptingEnabled: true });
  const elements: SourceElement[] = [];
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
        attributes: new Map(el.attrs.map((a) => [a.prefix ? `${a.prefix}:${a.name}` : a.name, a.value])),
        attributePlaces: new Map(
          Object.entries(attributePlaces(place.startTag)).map(([n, at]) => [
            n,
            { start: at.startOffset, end: at.endOffset },
          ]),
        ),
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
      };
      elements.push(element);
      byPath.set(frame.path, element);
    }
    const inert = frame.inert || tag === 'noscript' || tag === 'template';
    if (frame.depth < 1000) {
      const children = 'content' in el ? (el as DefaultTreeAdapterTypes.Template).content.childNodes : el.childNodes;
      pushChildren(children, { parent: self, path: frame.path, inHead, inert, depth: frame.depth + 1 });
    }
  }
  elements.sort((a, b) => a.start - b.start);
  const position = new Map(elements.map((e, i) => [e.index, i]));
  const ordered = elements.map((e, i) => ({ ...e, index: i, parent: position.get(e.parent) ?? -1 }));
  for (const e of ordered) byPath.set(e.path, e);
  const base = ordered.find((e) => e.tag === 'base' && e.attributes.has('href'))?.attributes.get('href');
  const firstInBody = ordered.find((e) => !e.inHead && !['html', 'head', 'body'].includes(e.tag));
  return {
    url,
    text,
    elements: ordered,
    baseUrl: base === undefined ? url : (safeResolve(base, url) ?? url),
    bodyStart: bodyStart >= 0 ? bodyStart : (firstInBody?.start ?? text.length),
    byPath,
  };
}

function attributePlaces(startTag: object | undefined): Record<string, { startOffset: number; endOffset: number }> {
  return (startTag as { attrs?: Record<string, { startOffset: number; endOffset: number }> } | undefined)?.attrs ?? {};
}

function textOf(el: Element): string {
  let out = '';
  for (const child of el.childNodes) {
    if (child.nodeName === '#text') out += (child as DefaultTreeAdapterTypes.TextNode).value;
    else if ('childNodes' in child && out.length < 2000) out += textOf(child as Element);
  }
  return out;
}

function safeResolve(reference: string, base: string): string | undefined {
  try {
    return new URL(reference, base).href;
  } catch {
    return undefined;
  }
}

/** 1-based line and column of an offset. */
export function placeOf(text: string, offset: number): { line: number; column: number } {
  let line = 1;
  let lineStart = 0;
  for (let i = text.indexOf('\n'); i >= 0 && i < offset; i = text.indexOf('\n', i + 1)) {
    line++;
    lineStart = i + 1;
  }
  return { line, column: offset - lineStart + 1 };
}

/** The text of one 1-based line, trimmed and cut to 200 characters. */
export function lineText(text: string, line: number): string {
  let start = 0;
  for (let n = 1; n < line; n++) {
    const next = text.indexOf('\n', start);
    if (next < 0) return '';
    start = next + 1;
  }
  const end = text.indexOf('\n', start);
  const whole = text.slice(start, end < 0 ? undefined : end).trim();
  return whole.length > 200 ? whole.slice(0, 199) + '…' : whole;
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
