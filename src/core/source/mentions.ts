import { resolveUrl } from '../capture/url';
import { redactUrl } from '../capture/redact';
import { mediaMatches, type Screen } from './media';
import { parseSrcset, pickCandidate } from './srcset';
import type { SourceDocument, SourceElement } from './document';
import { tokensOf } from './linkRel';

/** Why an address stands in the source. `load`: the browser fetches it by itself. */
export type MentionUse =
  | 'load'
  | 'link'
  | 'canonical'
  | 'alternate'
  | 'language'
  | 'feed'
  | 'form'
  | 'hint'
  | 'social'
  | 'base'
  | 'refresh'
  | 'structured';

/** One place in a page's markup that names an address. */
export interface Mention {
  readonly url: string;
  readonly raw: string;
  readonly element: SourceElement;
  readonly attribute: string;
  readonly use: MentionUse;
  /** Where in the attribute's value `raw` begins. */
  readonly at: number;
  /** Where in the document's text it stands, when that is not the element's start. */
  readonly offset?: number;
  /** As written in the source, where that differs from `raw` (escapes in JSON). */
  readonly written?: string;
  /** What a `load` mention fetches. */
  readonly kind?:
    'image' | 'track' | 'style' | 'script' | 'frame' | 'media' | 'font' | 'object' | 'icon' | 'manifest' | 'other';
}

/** Attributes in which script-driven loaders keep the real picture. */
export const DEFERRED_SOURCE =
  /^data-(src|srcset|original|lazy|lazy-src|full|image|img|bg|background|background-image|url|hi-?res|large|poster)$/;

/**
 * Every address a page's markup names, with its place. Comments, text, namespaces and script
 * contents are not mentions. Data attributes of loaders count as `hint`: named but not fetched by
 * the browser itself.
 */
export function listMentions(document: SourceDocument): Mention[] {
  const out: Mention[] = [];
  for (const element of document.elements) {
    const add: Add = (attribute, raw, use, kind, at = 0) => {
      if (!raw.trim() || /^(data|blob|javascript|mailto|tel|about):/i.test(raw.trim())) return;
      const url = resolveUrl(raw, document.baseUrl);
      if (url) out.push({ url: redactUrl(url), raw, element, attribute, use, kind, at });
    };
    const get = (name: string) => element.attributes.get(name);
    mentionsOf(element.tag, get, add);
    const type = element.tag === 'script' ? get('type')?.trim().toLowerCase() : undefined;
    const json = type === undefined ? undefined : JSON_SCRIPTS[type];
    if (json)
      for (const { raw, written, offset } of jsonAddresses(
        document.text.slice(element.startTagEnd, element.end),
        json.pattern,
      )) {
        const url = resolveUrl(raw, document.baseUrl);
        const { attribute, use, kind } = json;
        const place = { element, attribute, use, kind, at: 0, offset: element.startTagEnd + offset };
        if (url) out.push({ url: redactUrl(url), raw, written, ...place });
      }
    for (const [name, value] of element.attributes) {
      if (DEFERRED_SOURCE.test(name) && /[./]/.test(value)) {
        if (name.endsWith('srcset')) parseSrcset(value).forEach((c) => add(name, c.url, 'hint', 'image', c.start));
        else add(name, value, 'hint', 'image');
      }
    }
  }
  return out;
}

/** Scripts that hold addresses as JSON (JSON-LD 1.1; HTML, 8.1.5.2 for import maps), and where these stand in it. */
const JSON_SCRIPTS: Readonly<
  Record<
    string,
    { readonly attribute: string; readonly use: MentionUse; readonly kind?: Mention['kind']; readonly pattern: RegExp }
  >
> = {
  'application/ld+json': {
    attribute: 'JSON-LD',
    use: 'structured',
    // Properties that lead somewhere; `@id` and `@context` are names, not addresses.
    pattern:
      /"(?:url|image|logo|contentUrl|thumbnailUrl|embedUrl|mainEntityOfPage|item|target|urlTemplate|sameAs)"\s*:\s*\[?\s*"(https?:(?:[^"\\]|\\.)*)"/g,
  },
  importmap: { attribute: 'import map', use: 'load', kind: 'script', pattern: /:\s*"(https?:(?:[^"\\]|\\.)*)"/g },
};

/** Addresses in JSON text (RFC 8259, 7), with their offsets. */
function jsonAddresses(text: string, pattern: RegExp): { raw: string; written: string; offset: number }[] {
  return [...text.matchAll(pattern)].flatMap((m) => {
    const written = m[1] ?? '';
    const raw = written.includes('\\') ? unescaped(written) : written;
    return raw === undefined ? [] : [{ raw, written, offset: m.index + m[0].length - 1 - written.length }];
  });
}

function unescaped(written: string): string | undefined {
  try {
    return JSON.parse(`"${written}"`) as string;
  } catch {
    return undefined;
  }
}

type Get = (name: string) => string | undefined;
type Add = (attribute: string, raw: string, use: MentionUse, kind?: Mention['kind'], at?: number) => void;

function one(get: Get, add: Add, name: string, use: MentionUse, kind?: Mention['kind']): void {
  const value = get(name);
  if (value !== undefined) add(name, value, use, kind);
}

function set(get: Get, add: Add, name: string): void {
  const value = get(name);
  if (value) for (const candidate of parseSrcset(value)) add(name, candidate.url, 'load', 'image', candidate.start);
}

/** Addresses that are told of a click (HTML, 4.6.6): a list separated by spaces. */
function pings(get: Get, add: Add): void {
  for (const m of (get('ping') ?? '').matchAll(/\S+/g)) add('ping', m[0], 'hint', 'other', m.index);
}

/** Elements whose attributes can name an address. */
const NAMING = new Set(
  'a area audio base body button embed feimage form frame iframe image img input link meta object script source table td th track use video'.split(
    ' ',
  ),
);

/** Calls `add` for every address that one element names by its attributes; loaders' data attributes aside. */
export function mentionsOf(tag: string, get: Get, add: Add): void {
  // Most elements name nothing, and most of those that do are links: no work for either.
  if (!NAMING.has(tag)) return;
  if (tag === 'a') {
    const href = get('href');
    if (href !== undefined) add('href', href, 'link');
    return pings(get, add);
  }
  switch (tag) {
    case 'img':
      one(get, add, 'src', 'load', 'image');
      return set(get, add, 'srcset');
    case 'source':
      one(get, add, 'src', 'load', 'media');
      return set(get, add, 'srcset');
    case 'input':
      one(get, add, 'formaction', 'form');
      return get('type')?.toLowerCase() === 'image' ? one(get, add, 'src', 'load', 'image') : undefined;
    case 'button':
      return one(get, add, 'formaction', 'form');
    case 'body':
    case 'table':
    case 'td':
    case 'th':
      return one(get, add, 'background', 'load', 'image');
    case 'image':
    case 'feimage':
    case 'use':
      one(get, add, 'href', 'load', 'image');
      return one(get, add, 'xlink:href', 'load', 'image');
    case 'script':
      return isClassicOrModule(get('type')) ? one(get, add, 'src', 'load', 'script') : undefined;
    case 'iframe':
    case 'frame':
      return one(get, add, 'src', 'load', 'frame');
    case 'embed':
      return one(get, add, 'src', 'load', 'object');
    case 'object':
      return one(get, add, 'data', 'load', 'object');
    case 'video':
      one(get, add, 'poster', 'load', 'image');
      return one(get, add, 'src', 'load', 'media');
    case 'audio':
      return one(get, add, 'src', 'load', 'media');
    case 'track':
      return one(get, add, 'src', 'load', 'track');
    case 'area':
      one(get, add, 'href', 'link');
      return pings(get, add);
    case 'form':
      return one(get, add, 'action', 'form');
    case 'base':
      return one(get, add, 'href', 'base');
    case 'meta':
      if (get('http-equiv')?.toLowerCase() === 'refresh') {
        const m = /[;,\s]\s*url\s*=\s*['"]?([^'"]+)/i.exec(get('content') ?? '');
        if (m?.[1]) add('content', m[1], 'refresh', undefined, m.index + m[0].length - m[1].length);
        return;
      }
      return /^(og:|twitter:)/i.test(get('property') ?? get('name') ?? '') && /^https?:/i.test(get('content') ?? '')
        ? one(get, add, 'content', 'social')
        : undefined;
    case 'link':
      return linkMention(get, add);
    default:
      return undefined;
  }
}

function linkMention(get: Get, add: Add): void {
  const rel = tokensOf(get('rel'));
  if (rel.has('stylesheet')) return rel.has('alternate') ? undefined : one(get, add, 'href', 'load', 'style');
  if (rel.has('icon') || rel.has('apple-touch-icon')) return one(get, add, 'href', 'load', 'icon');
  if (rel.has('manifest')) return one(get, add, 'href', 'load', 'manifest');
  if (rel.has('modulepreload')) return one(get, add, 'href', 'load', 'script');
  if (rel.has('preload')) {
    one(get, add, 'href', 'load', preloadKind(get('as')?.toLowerCase()));
    return set(get, add, 'imagesrcset');
  }
  if (rel.has('prefetch')) return one(get, add, 'href', 'hint', 'other');
  if (rel.has('canonical')) return one(get, add, 'href', 'canonical');
  if (rel.has('next') || rel.has('prev')) return one(get, add, 'href', 'alternate');
  if (rel.has('alternate')) {
    const feed = /^application\/(rss|atom|feed)\+(xml|json)$/i.test(get('type')?.trim() ?? '');
    return one(get, add, 'href', feed ? 'feed' : get('hreflang') ? 'language' : 'alternate');
  }
  return undefined;
}

/** What a preload with this destination fetches (HTML, 4.6.7.9). */
export const preloadKind = (as: string | undefined): 'image' | 'style' | 'script' | 'font' | 'other' =>
  as === 'image' || as === 'style' || as === 'script' || as === 'font' ? as : 'other';

/** True for script types that run (HTML, section 4.12.1): JavaScript MIME types, module or none. */
export function isClassicOrModule(type: string | undefined): boolean {
  const t = type?.trim().toLowerCase() ?? '';
  return t === '' || t === 'module' || /^(text|application)\/(x-)?(java|ecma)script$/.test(t);
}

/** The set of candidates that a browser takes for an img: its own, or that of a source element before it. */
export interface CandidateSet {
  readonly element: SourceElement;
  readonly srcset: string;
  readonly sizes?: string;
  /** What it takes from the set, made absolute. */
  readonly url?: string;
}

/** The set of candidates, and the candidate, that an img takes on this screen (HTML, 4.8.4.3.5 and 4.8.4.3.6). */
export function candidateSet(document: SourceDocument, element: SourceElement, screen: ShownOn): CandidateSet {
  for (const source of sourcesBefore(document, element)) {
    if (!mediaMatches(source.attributes.get('media'), screen)) continue;
    if (!typeSupported(source.attributes.get('type'))) continue;
    const srcset = source.attributes.get('srcset') ?? '';
    const sizes = source.attributes.get('sizes');
    const picked = pickCandidate(srcset, sizes, screen);
    if (picked) return { element: source, srcset, sizes, url: resolveUrl(picked, document.baseUrl) };
  }
  const srcset = element.attributes.get('srcset') ?? '';
  const sizes = element.attributes.get('sizes');
  const src = element.attributes.get('src');
  // Where no candidate states a width or is for one point a pixel, src is that candidate (HTML, 4.8.4.3.6).
  const asOne = src && srcset && parseSrcset(srcset).every((c) => c.width === undefined && c.density !== 1);
  const reference = pickCandidate(asOne ? `${srcset}, ${src} 1x` : srcset, sizes, screen) ?? src;
  return { element, srcset, sizes, url: reference ? resolveUrl(reference, document.baseUrl) : undefined };
}

/** A screen on which candidates are chosen. */
export type ShownOn = Screen & { readonly density: number };

/** Source elements of a picture in front of its img. */
export function sourcesBefore(document: SourceDocument, element: SourceElement): SourceElement[] {
  const parent = document.elements[element.parent];
  if (parent?.tag !== 'picture') return [];
  return document.elements
    .slice(parent.index + 1, element.index)
    .filter((e) => e.tag === 'source' && e.parent === parent.index);
}

function typeSupported(type: string | undefined): boolean {
  return !type || /^image\/(avif|webp|jpeg|png|gif|svg\+xml)$/.test(type.trim().toLowerCase());
}
