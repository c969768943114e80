import { defaultTreeAdapter, parse, type DefaultTreeAdapterTypes, type Token } from 'parse5';
import { isPlainHttp, resolveUrl } from '../capture/url';
import { mentionsOf, type Mention, type MentionUse } from '../source/mentions';
import { listStyleReferences } from '../source/stylesheet';
import { robotsDirectives } from './robots';
import { TemplateReader } from './template';
import { TextHash } from './textHash';
import { tokensOf } from '../source/linkRel';

/** A link from one page to another, with its place. Lines and columns count from 1. */
export interface LinkFact {
  /** As written. */
  readonly raw: string;
  readonly tag: string;
  readonly attribute: string;
  readonly line: number;
  readonly column: number;
  readonly rel: string;
  /** What a person reads, 80 characters at most. */
  readonly text: string;
}

/** One place that names a plain-http address. */
export interface HttpMention {
  readonly url: string;
  readonly tag: string;
  readonly attribute: string;
  readonly use: MentionUse;
  readonly kind?: Mention['kind'];
  readonly line: number;
  readonly column: number;
  /** The line of source, 200 characters at most. */
  readonly source: string;
}

/** What the source of one page says, read in one pass. */
export interface PageFacts {
  readonly title: string;
  readonly language?: string;
  readonly canonical?: string;
  /** From robots meta elements. */
  readonly robots: readonly string[];
  readonly hreflang: readonly { readonly language: string; readonly url: string }[];
  /** The base element's href as written. */
  readonly base?: string;
  /** What references are resolved against (HTML Standard, 2.4.3). */
  readonly baseUrl: string;
  readonly refresh?: { readonly seconds: number; readonly url: string };
  readonly links: readonly LinkFact[];
  readonly mentions: readonly HttpMention[];
  readonly elements: number;
  /** Structural features, for telling templates apart. */
  readonly features: readonly string[];
  /** Changes when the text that people read changes, not with markup or white space. */
  readonly textHash: string;
}

type Element = DefaultTreeAdapterTypes.Element;
type Node = DefaultTreeAdapterTypes.ChildNode;

/** Builds the tree without noting where elements end, which nothing here asks for. */
const STARTS_ONLY: typeof defaultTreeAdapter = { ...defaultTreeAdapter, updateNodeSourceCodeLocation: () => undefined };

const MAX_DEPTH = 1000;
const MAX_MENTIONS = 2000;

/**
 * Reads the facts of a page from its source (HTML Standard, 13.2, by parse5). Nothing is run; nothing inside
 * `template` counts, `noscript` counts for links and mentions.
 */
export function readPageFacts(text: string, url: string): PageFacts {
  const root = parse(text, { sourceCodeLocationInfo: true, scriptingEnabled: false, treeAdapter: STARTS_ONLY });
  const base = findBase(root.childNodes);
  const baseUrl = base === undefined ? url : (resolveUrl(base, url) ?? url);
  const links: LinkFact[] = [];
  const mentions: HttpMention[] = [];
  const robots: string[] = [];
  const hreflang: { language: string; url: string }[] = [];
  const template = new TemplateReader();
  const words = new TextHash();
  const found: { title?: string; language?: string; canonical?: string; refresh?: PageFacts['refresh'] } = {};
  let elements = 0;

  const mention = (
    at: { line: number; column: number; offset: number },
    m: Omit<HttpMention, 'line' | 'column' | 'source'>,
  ) => {
    if (mentions.length < MAX_MENTIONS)
      mentions.push({ ...m, line: at.line, column: at.column, source: sourceLine(text, at.offset) });
  };
  // The element at hand: functions made once a page, not once an element.
  let el: Element = root as unknown as Element;
  const get = (name: string) => {
    for (const a of el.attrs) if ((a.prefix ? `${a.prefix}:${a.name}` : a.name) === name) return a.value;
    return undefined;
  };
  const add: Parameters<typeof mentionsOf>[2] = (attribute, raw, use, kind) => {
    const at = placeOf(el, placesOf(el)?.[attribute]);
    if (use === 'link') {
      links.push({
        raw,
        tag: el.tagName,
        attribute,
        line: at.line,
        column: at.column,
        rel: get('rel')?.toLowerCase() ?? '',
        text: linkText(el),
      });
    }
    if (mayBePlain(raw, baseUrl)) {
      const address = resolveUrl(raw, baseUrl);
      if (address && isPlainHttp(address)) mention(at, { url: address, tag: el.tagName, attribute, use, kind });
    }
  };
  const head = { url, baseUrl, robots, hreflang, found };
  const readElement = (element: Element) => {
    el = element;
    if (el.attrs.length === 0) return;
    mentionsOf(el.tagName, get, add);
    const style = get('style');
    if (style?.includes('http:')) {
      for (const r of listStyleReferences(style, baseUrl))
        if (isPlainHttp(r.url))
          mention(placeOf(el, placesOf(el)?.['style']), {
            url: r.url,
            tag: el.tagName,
            attribute: 'style',
            use: 'load',
            kind: 'image',
          });
    }
    if (el.tagName === 'html' || el.tagName === 'link' || el.tagName === 'meta') readHead(el, get, head);
  };

  // An explicit stack: hostile nesting must not exhaust the call stack.
  const stack: { node: Node; depth: number; structure: string; hidden: boolean }[] = [];
  const push = (nodes: readonly Node[], depth: number, structure: string, hidden: boolean) => {
    for (let i = nodes.length - 1; i >= 0; i--) stack.push({ node: nodes[i] as Node, depth, structure, hidden });
  };
  push(root.childNodes as Node[], 0, '', false);
  while (stack.length > 0) {
    const { node, depth, structure, hidden } = stack.pop() as (typeof stack)[number];
    if (node.nodeName === '#text') {
      if (!hidden) words.add((node as DefaultTreeAdapterTypes.TextNode).value);
      continue;
    }
    if (!('tagName' in node)) continue;
    elements++;
    readElement(node);
    const tag = node.tagName;
    if (tag === 'title' && found.title === undefined) found.title = textOf(node, 300).replace(/\s+/g, ' ').trim();
    if (tag === 'style') readStyle(node, baseUrl, text, mention);
    if (depth >= MAX_DEPTH) continue;
    const below = template.step(node, structure, depth);
    push(node.childNodes, depth + 1, below, hidden || tag === 'script' || tag === 'style' || tag === 'head');
  }
  return {
    title: found.title ?? '',
    language: found.language,
    canonical: found.canonical,
    robots,
    hreflang,
    base,
    baseUrl,
    refresh: found.refresh,
    links,
    mentions,
    elements,
    features: template.features(),
    textHash: words.value(),
  };
}

type Get = (name: string) => string | undefined;

function readHead(
  el: Element,
  get: Get,
  out: {
    url: string;
    baseUrl: string;
    robots: string[];
    hreflang: { language: string; url: string }[];
    found: { language?: string; canonical?: string; refresh?: PageFacts['refresh'] };
  },
): void {
  if (el.tagName === 'html') out.found.language = get('lang')?.trim() || undefined;
  if (el.tagName === 'link') {
    const rel = tokensOf(get('rel'));
    const href = get('href');
    if (href === undefined) return;
    if (rel.has('canonical')) out.found.canonical ??= resolveUrl(href, out.baseUrl) ?? href;
    const language = get('hreflang');
    if (rel.has('alternate') && language) out.hreflang.push({ language, url: resolveUrl(href, out.baseUrl) ?? href });
  }
  if (el.tagName !== 'meta') return;
  const name = get('name')?.toLowerCase();
  const content = get('content') ?? '';
  if (name === 'robots' || name === 'keenlens') out.robots.push(...robotsDirectives(content));
  if (get('http-equiv')?.toLowerCase() === 'refresh') out.found.refresh ??= readRefresh(content, out.baseUrl);
}

/** A meta refresh that leads elsewhere (HTML Standard, 4.2.5.3); one to the page itself is none. */
export function readRefresh(content: string, baseUrl: string): PageFacts['refresh'] {
  const m = /^\s*(\d+(?:\.[\d.]*)?)(?:\s*[;,]\s*|\s+)(?:url\s*=\s*)?(.+)$/i.exec(content);
  if (!m?.[2]) return undefined;
  const target = resolveUrl(m[2].trim().replace(/^(['"])(.*?)\1.*$/, '$2'), baseUrl);
  return target ? { seconds: Number(m[1]), url: target } : undefined;
}

/** The base element comes before everything that it is used for, or it does not count for it; one is enough. */
function findBase(nodes: readonly object[]): string | undefined {
  const html = (nodes as Node[]).find((n) => n.nodeName === 'html') as Element | undefined;
  const head = html?.childNodes.find((n) => n.nodeName === 'head') as Element | undefined;
  const base = head?.childNodes.find(
    (n) => n.nodeName === 'base' && (n as Element).attrs.some((a) => a.name === 'href'),
  ) as Element | undefined;
  return base?.attrs.find((a) => a.name === 'href')?.value;
}

function readStyle(
  el: Element,
  baseUrl: string,
  text: string,
  mention: (
    at: { line: number; column: number; offset: number },
    m: Omit<HttpMention, 'line' | 'column' | 'source'>,
  ) => void,
): void {
  const css = textOf(el, 2_000_000);
  if (!css.includes('http:')) return;
  const start = el.sourceCodeLocation?.startTag?.endOffset ?? 0;
  for (const r of listStyleReferences(css, baseUrl)) {
    if (!isPlainHttp(r.url)) continue;
    const offset = start + r.offset;
    const before = text.lastIndexOf('\n', offset - 1);
    let line = el.sourceCodeLocation?.startTag?.endLine ?? 1;
    for (let i = text.indexOf('\n', start); i >= 0 && i < offset; i = text.indexOf('\n', i + 1)) line++;
    const kind = r.use === 'font' ? 'font' : r.use === 'import' ? 'style' : 'image';
    mention(
      { line, column: offset - before, offset },
      { url: r.url, tag: 'style', attribute: r.property || '@import', use: 'load', kind },
    );
  }
}

const placesOf = (el: Element) => (el.sourceCodeLocation as Token.LocationWithAttributes | null | undefined)?.attrs;

function placeOf(el: Element, place: Token.Location | undefined): { line: number; column: number; offset: number } {
  const at = place ?? el.sourceCodeLocation;
  return { line: at?.startLine ?? 1, column: at?.startCol ?? 1, offset: at?.startOffset ?? 0 };
}

/** Cheap test before an address is resolved: most references cannot be plain http. */
function mayBePlain(raw: string, baseUrl: string): boolean {
  return /^\s*http:/i.test(raw) || (isPlainHttp(baseUrl) && !/^\s*https:/i.test(raw));
}

function sourceLine(text: string, offset: number): string {
  const start = text.lastIndexOf('\n', Math.max(0, offset - 1)) + 1;
  const end = text.indexOf('\n', offset);
  const whole = text.slice(start, end < 0 ? undefined : end);
  if (whole.trim().length <= 200) return whole.trim();
  // A minified page is one line: show what stands around the place.
  const from = Math.max(0, offset - start - 60);
  return (from > 0 ? '…' : '') + whole.slice(from, from + 198).trim() + '…';
}

function textOf(el: Element, limit: number): string {
  let out = '';
  const stack: Node[] = [...el.childNodes].reverse();
  while (stack.length > 0 && out.length < limit) {
    const node = stack.pop() as Node;
    if (node.nodeName === '#text') out += (node as DefaultTreeAdapterTypes.TextNode).value;
    else if ('childNodes' in node)
      for (let i = node.childNodes.length - 1; i >= 0; i--) stack.push(node.childNodes[i] as Node);
  }
  return out;
}

/** What a link says: its text, else the alternative text of its picture, else its label. */
function linkText(el: Element): string {
  const only = el.childNodes.length === 1 ? el.childNodes[0] : undefined;
  if (only?.nodeName === '#text') {
    const { value } = only as DefaultTreeAdapterTypes.TextNode;
    if (value.length <= 80 && !/^\s|\s$|\s\s|[\t\n\r\f]/.test(value)) return value;
  }
  const text = textOf(el, 400).replace(/\s+/g, ' ').trim();
  if (text) return text.slice(0, 80);
  const image = el.childNodes.find((n) => n.nodeName === 'img') as Element | undefined;
  const alt = image?.attrs.find((a) => a.name === 'alt')?.value ?? el.attrs.find((a) => a.name === 'aria-label')?.value;
  return (alt ?? '').trim().slice(0, 80);
}
