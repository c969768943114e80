import { parse, type DefaultTreeAdapterTypes } from 'parse5';
import { hostOf, resolveUrl } from '../capture/url';
import { sameSite } from '../capture/site';
import { robotsDirectives } from '../site/robots';
import { HeroMarkup } from './heroMarkup';

/** A block of text that people read, and where it stands. */
export interface TextBlock {
  /** Elements from the body down, with ids and classes: the same wherever in its list the block stands. */
  readonly path: string;
  readonly text: string;
}

/** What a change watch keeps of one visit to a page. */
export interface PageSnapshot {
  readonly status: number;
  /** Where redirects ended. */
  readonly finalUrl: string;
  readonly title: string;
  readonly description: string;
  readonly canonical: string;
  /** From meta elements and the header, in alphabetical order. */
  readonly robots: string;
  readonly language: string;
  /** How the hero is written in the source; visits of an earlier version do not tell. */
  readonly hero?: string;
  /** Headings of levels 1 and 2 are text, too; kept apart since they say what the page is about. */
  readonly headings: readonly string[];
  readonly text: readonly TextBlock[];
  /** How often each element with its parent, id and classes occurs. */
  readonly structure: Readonly<Record<string, number>>;
  /** Hosts of other sites from which the page fetches. */
  readonly thirdParties: readonly string[];
  /** Headers by name in lower case, without those of the moment. */
  readonly headers: Readonly<Record<string, string>>;
}

type Element = DefaultTreeAdapterTypes.Element;
type Node = DefaultTreeAdapterTypes.ChildNode;

const MOST_BLOCKS = 4000;
const MOST_TEXT = 2000;
const MOST_DEPTH = 400;
const UNREAD = new Set(['script', 'style', 'template', 'noscript', 'svg', 'math', 'object', 'iframe', 'select']);
/** Elements within a line of text (HTML Standard, 4.5 and parts of 4.8): their words belong to the block around. */
const INLINE = new Set(
  'a abbr b bdi bdo br cite code data dfn em i img kbd label mark q rp rt ruby s samp small span strong sub sup time u var wbr'.split(
    ' ',
  ),
);
/** Headers that say something of the moment or of the connection, not of the page. */
const MOMENTARY = new Set([
  'age',
  'content-length',
  'date',
  'etag',
  'expires',
  'last-modified',
  'retry-after',
  'location',
]);

/** Reads what a change watch compares from an answer; nothing of the page is run. */
export function readSnapshot(answer: {
  readonly url: string;
  readonly status: number;
  readonly html: string;
  readonly headers: Readonly<Record<string, string>>;
  /** The hero's file in the last recording of the page. */
  readonly heroUrl?: string;
}): PageSnapshot {
  const root = parse(answer.html);
  const found = { title: '', description: '', canonical: '', language: '' };
  const robots = new Set(robotsDirectives(answer.headers['x-robots-tag'] ?? ''));
  const headings: string[] = [];
  const text: TextBlock[] = [];
  const structure: Record<string, number> = Object.create(null) as Record<string, number>;
  const thirdParties = new Set<string>();
  const hero = new HeroMarkup(answer.heroUrl);
  const own = hostOf(answer.url);
  let base = answer.url;

  const walk = (nodes: readonly Node[], path: string, parent: string, depth: number) => {
    if (depth > MOST_DEPTH) return;
    let run = '';
    const endRun = () => {
      const words = spaced(run);
      run = '';
      if (words && text.length < MOST_BLOCKS) text.push({ path, text: words.slice(0, MOST_TEXT) });
    };
    for (const node of nodes) {
      if (node.nodeName === '#text') run += (node as DefaultTreeAdapterTypes.TextNode).value;
      if (!('tagName' in node)) continue;
      const name = nameOf(node);
      const feature = parent ? `${parent} > ${name}` : name;
      structure[feature] = (structure[feature] ?? 0) + 1;
      readElement(node);
      if (UNREAD.has(node.tagName)) continue;
      if (INLINE.has(node.tagName)) run += ` ${textOf(node, depth)} `;
      else {
        endRun();
        if (/^h[12]$/.test(node.tagName)) headings.push(spaced(textOf(node, depth)).slice(0, 300));
        walk(node.childNodes, path ? `${path} > ${name}` : name, name, depth + 1);
      }
    }
    endRun();
  };
  const readElement = (el: Element) => {
    const get = (name: string) => el.attrs.find((a) => a.name === name)?.value ?? '';
    const rel = get('rel').toLowerCase().split(/\s+/);
    if (el.tagName !== 'link' && el.tagName !== 'meta') hero.take(el);
    if (el.tagName === 'base' && get('href')) base = resolveUrl(get('href'), answer.url) ?? base;
    if (el.tagName === 'meta' && /^description$/i.test(get('name'))) found.description ||= spaced(get('content'));
    if (el.tagName === 'meta' && /^robots$/i.test(get('name')))
      for (const d of robotsDirectives(get('content'))) robots.add(d);
    if (el.tagName === 'link' && rel.includes('canonical')) found.canonical ||= resolveUrl(get('href'), base) ?? '';
    const fetched =
      el.tagName === 'link'
        ? rel.some((r) => ['stylesheet', 'preload', 'modulepreload', 'icon', 'manifest'].includes(r)) && get('href')
        : ['script', 'img', 'iframe', 'video', 'audio', 'source', 'embed', 'track'].includes(el.tagName) && get('src');
    const host = fetched ? hostOf(resolveUrl(fetched, base) ?? '') : '';
    if (host && !sameSite(host, own)) thirdParties.add(host);
  };

  const html = root.childNodes.find((n): n is Element => n.nodeName === 'html');
  found.language = html?.attrs.find((a) => a.name === 'lang')?.value ?? '';
  for (const part of html?.childNodes ?? []) {
    if (part.nodeName === 'head') {
      for (const el of (part as Element).childNodes) {
        if (!('tagName' in el)) continue;
        if (el.tagName === 'title') found.title ||= spaced(textOf(el, 0));
        readElement(el);
      }
    } else if (part.nodeName === 'body') walk((part as Element).childNodes, '', '', 0);
  }
  return {
    status: answer.status,
    finalUrl: answer.url,
    ...found,
    hero: hero.text,
    robots: [...robots].sort().join(', '),
    headings,
    text,
    structure,
    thirdParties: [...thirdParties].sort(),
    headers: Object.fromEntries(
      Object.entries(answer.headers)
        .filter(([name]) => !MOMENTARY.has(name))
        .sort(([a], [b]) => (a < b ? -1 : 1)),
    ),
  };
}

const spaced = (text: string) => text.replace(/[\s\u00a0]+/g, ' ').trim();

/** An element with its id and classes; numbers in them count as one, since they are often made up anew. */
function nameOf(el: Element): string {
  const get = (name: string) => el.attrs.find((a) => a.name === name)?.value ?? '';
  const id = get('id') && `#${get('id')}`;
  const classes = get('class')
    .split(/\s+/)
    .filter(Boolean)
    .sort()
    .map((c) => `.${c}`);
  return `${el.tagName}${id}${classes.join('')}`.replace(/\d+/g, '0').slice(0, 120);
}

function textOf(el: Element, depth: number): string {
  if (depth > MOST_DEPTH) return '';
  let out = '';
  for (const node of el.childNodes) {
    if (node.nodeName === '#text') out += (node as DefaultTreeAdapterTypes.TextNode).value;
    else if ('tagName' in node && !UNREAD.has(node.tagName)) out += textOf(node, depth + 1);
  }
  return out;
}
