import type { Load } from '../capture/capture';
import { resolveUrl } from '../capture/url';
import { redactUrl } from '../capture/redact';
import { tokensOf } from './linkRel';
import { mediaMatches, type Screen } from './media';
import { parseSrcset } from './srcset';

/** A link that the server sends beside the document (RFC 8288; HTML, 4.6.7: processed when its headers are). */
export interface HeaderLink {
  readonly url: string;
  /** Words of its `rel` parameter. */
  readonly rel: ReadonlySet<string>;
  /** What a preload is fetched as; empty where none is stated. */
  readonly as: string;
  /** Value of `crossorigin`; undefined without that parameter. */
  readonly crossorigin?: string;
  readonly fetchpriority?: string;
  /** Addresses that a preload may take instead of its own (`imagesrcset`). */
  readonly candidates: readonly string[];
  /** Sent ahead of the answer, in Early Hints (RFC 8297). */
  readonly early: boolean;
}

/** Links of a document's Link headers that apply to this screen, those of its Early Hints first. */
export function headerLinks(document: Load | undefined, screen: Screen): HeaderLink[] {
  if (!document) return [];
  const own = document.responseHeaders.filter((h) => h.name.toLowerCase() === 'link').map((h) => h.value);
  const read = (values: readonly string[], early: boolean) =>
    values.flatMap(parseLinks).flatMap(({ target, parameters }): HeaderLink[] => {
      const url = resolveUrl(target, document.url);
      if (!url || !mediaMatches(parameters.get('media'), screen)) return [];
      const set = parseSrcset(parameters.get('imagesrcset') ?? '');
      return [
        {
          url: redactUrl(url),
          rel: tokensOf(parameters.get('rel')),
          as: parameters.get('as')?.trim().toLowerCase() ?? '',
          crossorigin: parameters.get('crossorigin'),
          fetchpriority: parameters.get('fetchpriority')?.trim().toLowerCase(),
          candidates: set.flatMap((c) => resolveUrl(c.url, document.url) ?? []).map((c) => redactUrl(c)),
          early,
        },
      ];
    });
  return [...read(document.earlyHints?.links ?? [], true), ...read(own, false)];
}

/** True for a link that has a file fetched before anything names it. */
export const isPreload = ({ rel }: HeaderLink): boolean => rel.has('preload') || rel.has('modulepreload');

/** True for a preload that may have fetched an address. */
export const preloads = (link: HeaderLink, url: string): boolean =>
  isPreload(link) && (link.candidates.length > 0 ? link.candidates.includes(url) : link.url === url);

/** Links of one header that are read. */
const MOST_LINKS = 500;

interface ParsedLink {
  readonly target: string;
  /** By name in lower case; of two alike, the first. */
  readonly parameters: ReadonlyMap<string, string>;
}

/**
 * The grammar of RFC 8288, 3: `<target>; name=value; name="quoted value", ...`; what does not follow it is left out. Takes
 * time in proportion to the length, whatever a server sends.
 */
export function parseLinks(value: string): ParsedLink[] {
  const out: ParsedLink[] = [];
  let at = 0;
  /** Goes on to the first character of which the test is true, or to the end; returns what it went over. */
  const until = (stops: (c: string) => boolean): string => {
    const from = at;
    while (at < value.length && !stops(value[at] as string)) at++;
    return value.slice(from, at);
  };
  const skipSpace = () => until((c) => !/\s/.test(c));
  while (at < value.length && out.length < MOST_LINKS) {
    until((c) => !/[\s,]/.test(c));
    const end = value[at] === '<' ? value.indexOf('>', at) : -1;
    if (value[at] === '<' && end < 0) break;
    if (end >= 0) {
      const target = value.slice(at + 1, end).trim();
      at = end + 1;
      out.push({ target, parameters: readParameters() });
    }
    until((c) => c === ',');
  }
  return out;

  function readParameters(): Map<string, string> {
    const parameters = new Map<string, string>();
    for (;;) {
      skipSpace();
      if (value[at] !== ';') return parameters;
      at++;
      skipSpace();
      const name = until((c) => /[\s=;,]/.test(c)).toLowerCase();
      skipSpace();
      let text = '';
      if (value[at] === '=') {
        at++;
        skipSpace();
        text = value[at] === '"' ? readQuoted() : until((c) => /[\s;,]/.test(c));
      }
      if (name && !parameters.has(name)) parameters.set(name, text);
    }
  }

  /** A quoted string (RFC 9110, 5.6.4); one that does not end goes to the end. */
  function readQuoted(): string {
    let text = '';
    for (at++; at < value.length && value[at] !== '"'; at++) {
      if (value[at] === '\\' && at + 1 < value.length) at++;
      text += value[at];
    }
    at++;
    return text;
  }
}
