import { screenOf } from './media';
import type { Bodies, Capture, Load, PictureBox } from '../capture/capture';
import { parseDocument, type SourceDocument, type SourceElement } from './document';
import { headerLinks, preloads, type HeaderLink } from './linkHeader';
import { tokensOf } from './linkRel';
import { candidateSet, isClassicOrModule, listMentions, type Mention } from './mentions';
import { pictureSize, type PictureSize } from './pictureSize';
import { readRules, type SheetRules } from './rules';
import { ElementTree } from './selectors';
import { listStyleReferences, type StyleReference } from './stylesheet';
import { followToEnd } from '../capture/redirects';

/** A stylesheet of a page: a load, or an inline style element (`load` undefined). */
export interface PageStyle {
  readonly load?: Load;
  readonly element?: SourceElement;
  readonly text: string;
  readonly url: string;
  readonly references: readonly StyleReference[];
}

/** A script element of the source. */
export interface PageScript {
  readonly element: SourceElement;
  readonly url?: string;
  readonly mode: 'sync' | 'async' | 'defer' | 'inline';
  /** Nothing is painted before it has run, although the parser does not wait for it (HTML, 2.5.8, blocking attributes). */
  readonly holdsPaint?: true;
}

/** A capture with its source parsed: what checks, graph and fixes share. Nothing re-reads a body. */
export interface Page {
  readonly capture: Capture;
  readonly bodies: Bodies;
  readonly document?: SourceDocument;
  readonly mentions: readonly Mention[];
  /** Links of the answer's headers, and of what was sent ahead of it. */
  readonly headerLinks: readonly HeaderLink[];
  readonly styles: readonly PageStyle[];
  readonly scripts: readonly PageScript[];
  /** Mentions of one element. */
  mentionsIn(element: SourceElement): readonly Mention[];
  /** Mentions by address; an http mention is also found under the https twin that was fetched for it. */
  mentionsOf(url: string): readonly Mention[];
  /** Source element at a recorded path, if it is (still) the same element. */
  elementAt(path: string | undefined, tag?: string): SourceElement | undefined;
  /** Recorded load that delivered an address, after redirects. */
  loadOf(url: string): Load | undefined;
  /** Points of a picture's file; what the recorder saw is in CSS pixels, which srcset changes. */
  filePixels(picture: PictureBox): PictureSize | undefined;
  readonly pictures: readonly PictureBox[];
  /** Rules of one of its stylesheets, read when first asked for. */
  rulesOf(style: PageStyle): SheetRules;
  /** The source's elements with their relations; undefined without a source. */
  readonly tree: ElementTree | undefined;
  /** The document as it stood when the recording ended; undefined where that was not recorded. */
  readonly rendered: ElementTree | undefined;
}

/** Parses a capture's source and stylesheets once. */
export function readPage(capture: Capture, bodies: Bodies): Page {
  const documentLoad = capture.loads[capture.documentIndex];
  const html = documentLoad ? bodies.text(documentLoad) : undefined;
  const document = html === undefined ? undefined : parseDocument(html, capture.page);
  const mentions = document ? listMentions(document) : [];
  const byUrl = new Map<string, Mention[]>();
  const remember = (url: string, mention: Mention) => {
    const list = byUrl.get(url);
    if (list) list.push(mention);
    else byUrl.set(url, [mention]);
  };
  const byElement = new Map<SourceElement, Mention[]>();
  for (const mention of mentions) {
    remember(mention.url, mention);
    const own = byElement.get(mention.element);
    if (own) own.push(mention);
    else byElement.set(mention.element, [mention]);
  }
  const loads = new Map<string, Load>();
  for (const load of capture.loads) if (!loads.has(load.url)) loads.set(load.url, load);
  const rules = new Map<PageStyle, SheetRules>();
  let tree: ElementTree | undefined;
  let rendered: ElementTree | undefined;
  return {
    capture,
    bodies,
    document,
    mentions,
    headerLinks: headerLinks(documentLoad, screenOf(capture.conditions)),
    styles: collectStyles(capture, bodies, document),
    scripts: document ? collectScripts(document, mentions) : [],
    pictures: capture.observations?.pictures ?? [],
    filePixels(picture) {
      const load = this.loadOf(picture.url);
      const bytes = load && bodies.bytes(load);
      const read = bytes && pictureSize(bytes);
      if (read) return read;
      const { naturalWidth: width, naturalHeight: height } = picture;
      return width && height ? { width, height } : undefined;
    },
    rulesOf(style) {
      let read = rules.get(style);
      if (!read) rules.set(style, (read = readRules(style.text)));
      return read;
    },
    get tree() {
      return (tree ??= document && new ElementTree(document));
    },
    get rendered() {
      const html = capture.observations?.renderedHtml;
      return (rendered ??= html === undefined ? undefined : new ElementTree(parseDocument(html, capture.page)));
    },
    mentionsIn: (element) => byElement.get(element) ?? [],
    mentionsOf(url) {
      const direct = byUrl.get(url) ?? [];
      if (!url.startsWith('https:')) return direct;
      return [...direct, ...(byUrl.get('http:' + url.slice(6)) ?? [])];
    },
    elementAt(path, tag) {
      if (!path || !document) return undefined;
      const element = document.byPath.get(path);
      return element && (tag === undefined || element.tag === tag.toLowerCase()) ? element : undefined;
    },
    loadOf(url) {
      // Where an address is http, a browser may have asked over https instead.
      const at = (address: string) => loads.get(address) ?? loads.get(address.replace(/^http:/, 'https:'));
      const first = at(url);
      if (!first) return undefined;
      const last = followToEnd(first, (load) => (load.redirectTo ? at(load.redirectTo) : undefined));
      // A redirect to something that was not recorded ends at nothing.
      return last.redirectTo ? undefined : last;
    },
  };
}

function collectStyles(capture: Capture, bodies: Bodies, document: SourceDocument | undefined): PageStyle[] {
  const out: PageStyle[] = [];
  for (const load of capture.loads) {
    if (load.kind !== 'style') continue;
    const text = bodies.text(load);
    if (text !== undefined) out.push({ load, text, url: load.url, references: listStyleReferences(text, load.url) });
  }
  for (const element of document?.elements ?? []) {
    if (element.inert) continue;
    const inline = element.tag === 'style' ? element.text : undefined;
    const attribute = element.attributes.get('style');
    if (inline)
      out.push({
        element,
        text: inline,
        url: capture.page,
        references: listStyleReferences(inline, document?.baseUrl ?? capture.page),
      });
    if (attribute && /url\(/i.test(attribute)) {
      out.push({
        element,
        text: attribute,
        url: capture.page,
        references: listStyleReferences(attribute, document?.baseUrl ?? capture.page),
      });
    }
  }
  return out;
}

function collectScripts(document: SourceDocument, mentions: readonly Mention[]): PageScript[] {
  const out: PageScript[] = [];
  const bySrc = new Map<SourceElement, string>();
  for (const m of mentions) if (m.element.tag === 'script' && m.attribute === 'src') bySrc.set(m.element, m.url);
  for (const element of document.elements) {
    if (element.tag !== 'script' || element.inert) continue;
    const type = element.attributes.get('type');
    if (!isClassicOrModule(type) || element.attributes.has('nomodule')) continue;
    const url = bySrc.get(element);
    const module = type?.trim().toLowerCase() === 'module';
    if (url === undefined) {
      if (module) out.push({ element, mode: 'defer' });
      else if (element.text?.trim()) out.push({ element, mode: 'inline' });
      continue;
    }
    const mode = element.attributes.has('async')
      ? 'async'
      : module || element.attributes.has('defer')
        ? 'defer'
        : 'sync';
    const holdsPaint = mode !== 'sync' && element.inHead && asksToBlock(element);
    out.push({ element, url, mode, ...(holdsPaint && { holdsPaint }) });
  }
  return out;
}

/** Whether an element asks by its `blocking` attribute that nothing is painted before it is done (HTML, 2.5.8). */
export const asksToBlock = (element: SourceElement): boolean =>
  tokensOf(element.attributes.get('blocking')).has('render');

/** Whether a link of the head or a header has an address fetched before a stylesheet names it. */
export const isPreloaded = (page: Page, url: string): boolean =>
  page.headerLinks.some((link) => preloads(link, url)) || page.mentionsOf(url).some((m) => m.element.tag === 'link');

/** The image an element shows on the capture's screen, by the srcset rules. */
export function shownAddress(page: Page, element: SourceElement): string | undefined {
  return page.document && candidateSet(page.document, element, screenOf(page.capture.conditions)).url;
}
