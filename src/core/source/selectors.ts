import { compile, type Options } from 'css-select';
import { isTraversal, parse, type AttributeSelector, type Selector } from 'css-what';
import { treeParent, type SourceDocument, type SourceElement, type TreeElement, type TreeNode } from './document';

/** A selector that can be compared with elements of a document. */
export interface ElementTest {
  /** What the element itself must have, to find it by: `#id`, `.class` or `tag`; empty when anything may match. */
  readonly key: string;
  /** Ids, classes and tags that must stand somewhere in the document for it to match at all. */
  readonly needs: readonly string[];
  /** True for `::before` and the like: the rule draws a part of the element. */
  readonly part: boolean;
  /** True when it needs the visitor to do something first (`:hover`, `:focus`, ...). */
  readonly state: boolean;
  /**
   * True when the document does not tell whether it matches: state of forms and media, namespaces, and what the matcher
   * does not know. `matches` is false for it; whoever removes rules must take it as matching.
   */
  readonly unknown: boolean;
  /** True when one comparison looks at all siblings or descendants. */
  readonly costly: boolean;
  /** Ids count a million, classes and the like a thousand, tags one (Selectors 4, 17). */
  readonly specificity: number;
  matches(element: SourceElement, tree: ElementTree): boolean;
}

/** A document's elements by tag, class and id, for matching selectors. */
export class ElementTree {
  private readonly children = new Map<number, SourceElement[]>();
  private readonly byKey = new Map<string, SourceElement[]>();
  private readonly all: readonly SourceElement[];
  /** Elements a parent has at the most. */
  private widest = 1;

  constructor(readonly document: SourceDocument) {
    this.all = [...document.elements, ...document.implied];
    for (const e of this.all) {
      push(this.children, e.parent, e);
      push(this.byKey, e.tag.toLowerCase(), e);
      const id = e.attributes.get('id');
      if (id) push(this.byKey, this.fold(`#${id}`), e);
      for (const name of classesOf(e)) push(this.byKey, this.fold(`.${name}`), e);
    }
    for (const list of this.children.values()) this.widest = Math.max(this.widest, list.length);
  }

  parentOf(e: SourceElement): SourceElement | undefined {
    return this.document.elements[e.parent];
  }

  childrenOf(e: SourceElement): readonly SourceElement[] {
    return this.children.get(e.index) ?? [];
  }

  siblingsOf(e: SourceElement): readonly SourceElement[] {
    return this.children.get(e.parent) ?? [];
  }

  /** False for a selector that names an id, class or tag which no element has. */
  mayMatch(test: ElementTest): boolean {
    return test.needs.every((key) => this.hasKey(key));
  }

  /** True when some element has this tag, `.class` or `#id`. */
  hasKey(key: string): boolean {
    return this.byKey.has(this.fold(key));
  }

  /** How many comparisons it takes to hold a selector against the document. */
  candidates(test: ElementTest): number {
    return this.candidatesOf(test).length * (test.costly ? this.widest : 1);
  }

  /** Elements that a selector matches. */
  select(test: ElementTest): SourceElement[] {
    return this.mayMatch(test) ? this.candidatesOf(test).filter((e) => test.matches(e, this)) : [];
  }

  private candidatesOf(test: ElementTest): readonly SourceElement[] {
    return test.key ? (this.byKey.get(this.fold(test.key)) ?? []) : this.all;
  }

  private fold(key: string): string {
    return this.document.quirks ? key.toLowerCase() : key;
  }
}

function push<K>(map: Map<K, SourceElement[]>, key: K, element: SourceElement): void {
  const list = map.get(key);
  if (list) list.push(element);
  else map.set(key, [element]);
}

/** Class names of an element. */
export function classesOf(element: SourceElement): string[] {
  return (element.attributes.get('class') ?? '').split(/\s+/).filter(Boolean);
}

/** What a visitor does, or what comes of it (Selectors 4, 9, 10 and 12). */
const STATES = new Set(
  'hover focus active visited focus-visible focus-within target target-within fullscreen popover-open modal user-invalid user-valid picture-in-picture interest-source interest-target'.split(
    ' ',
  ),
);
/** What structure and attributes tell for good. */
const STRUCTURE = new Set(
  'is where not has matches root empty lang first-child last-child only-child first-of-type last-of-type only-of-type nth-child nth-last-child nth-of-type nth-last-of-type link any-link'.split(
    ' ',
  ),
);
const COSTLY = /^(has|nth-|last-|only-|first-of-type|empty)/;

/** Reads a selector list (Selectors 4). What cannot be read or told is `unknown`, never silently without a match. */
export function readSelectors(text: string): ElementTest[] {
  let list: Selector[][];
  try {
    list = parse(text);
  } catch {
    return [UNREADABLE];
  }
  return list.map(readSelector);
}

const UNREADABLE: ElementTest = {
  key: '',
  needs: [],
  part: false,
  state: false,
  unknown: true,
  costly: false,
  specificity: 0,
  matches: () => false,
};

interface Part {
  readonly text: string;
  /** Classes and ids that it names; undefined where that cannot be told from the text. */
  readonly keys?: readonly string[];
  /** Read when first needed. */
  tests?: readonly ElementTest[];
}

const partsOfRules = new WeakMap<object, readonly Part[]>();

/**
 * Selectors of a rule that may match something of a document. Those that name a class or id which no element has
 * are not even read; the others are read once a rule, whatever documents it is compared with.
 */
export function selectorsFor(rule: { readonly selectorText: string }, tree: ElementTree): ElementTest[] {
  let parts = partsOfRules.get(rule);
  if (!parts) partsOfRules.set(rule, (parts = splitList(rule.selectorText).map(readPart)));
  const out: ElementTest[] = [];
  for (const part of parts)
    if (!part.keys || part.keys.every((k) => tree.hasKey(k))) out.push(...(part.tests ??= readSelectors(part.text)));
  return out;
}

/** Parts of a selector list, between commas that are in no brackets and no strings. */
export function splitList(text: string): string[] {
  return /[(["'\\]/.test(text) ? topLevelParts(text) : text.split(',');
}

function readPart(text: string): Part {
  // Only names outside brackets must be there, and escapes hide what a name is.
  if (/[\\"'([]/.test(text)) return { text };
  return { text, keys: text.match(/[.#][\w\u0080-\uffff-]+/g) ?? [] };
}

/** Parts of a list between commas that are in no brackets and no strings. */
function topLevelParts(text: string): string[] {
  const out: string[] = [];
  let depth = 0;
  let start = 0;
  let quote = '';
  for (let i = 0; i < text.length; i++) {
    const c = text[i] as string;
    if (c === '\\') i++;
    else if (quote) quote = c === quote ? '' : quote;
    else if (c === '"' || c === "'") quote = c;
    else if (c === '(' || c === '[') depth++;
    else if (c === ')' || c === ']') depth--;
    else if (c === ',' && depth === 0) {
      out.push(text.slice(start, i));
      start = i + 1;
    }
  }
  out.push(text.slice(start));
  return out;
}

function readSelector(tokens: Selector[]): ElementTest {
  let key = '';
  let part = false;
  let state = false;
  let unknown = false;
  let costly = false;
  const needs: string[] = [];
  const own: Selector[] = [];
  for (const token of tokens) {
    if (isTraversal(token)) {
      key = '';
      costly ||= token.type === 'sibling' || token.type === 'adjacent';
      own.push(token);
    } else if (token.type === 'pseudo-element' || isOldPart(token)) part = true;
    else if (token.type === 'pseudo' && STATES.has(token.name)) state = true;
    else {
      const name = keyOf(token);
      if (name) {
        needs.push(name);
        if (!key || rank(name) > rank(key)) key = name;
      }
      unknown ||= !isTold(token);
      costly ||= token.type === 'pseudo' && COSTLY.test(token.name);
      own.push(token);
    }
  }
  // A combinator may be left at either end by what was taken out: it stands for any element.
  if (own.length === 0 || isTraversal(own.at(-1) as Selector))
    own.push({ type: 'universal', namespace: null } as Selector);
  const test = unknown ? undefined : matcher(own);
  return {
    key,
    needs,
    part,
    state,
    costly,
    unknown: test === undefined,
    specificity: specificityOf(tokens),
    matches: (e, tree) => test?.(e.node, tree.document.quirks) ?? false,
  };
}

/** CSS 2 wrote parts with one colon. */
function isOldPart(token: Selector): boolean {
  return token.type === 'pseudo' && /^(before|after|first-line|first-letter|selection)$/.test(token.name);
}

/** `#id`, `.class` or `tag` that a simple selector asks for by name. */
function keyOf(token: Selector): string | undefined {
  if (token.type === 'tag') return token.namespace === null ? token.name.toLowerCase() : undefined;
  if (token.type !== 'attribute') return undefined;
  if (token.name === 'id' && token.action === 'equals' && token.ignoreCase === 'quirks') return `#${token.value}`;
  return isClass(token) ? `.${token.value}` : undefined;
}

const isClass = (token: AttributeSelector) =>
  token.name === 'class' && token.action === 'element' && token.ignoreCase === 'quirks';
const rank = (key: string) => (key.startsWith('#') ? 2 : key.startsWith('.') ? 1 : 0);

/** False where the document does not tell whether a simple selector holds. */
function isTold(token: Selector, negated = false): boolean {
  if (token.type === 'tag' || token.type === 'attribute') return token.namespace === null;
  if (token.type === 'universal') return token.namespace === null || token.namespace === '*';
  if (token.type !== 'pseudo') return isTraversal(token) && token.type !== 'column-combinator';
  // Nothing is hovered at first, so `:not(:hover)` holds; `:is(:hover)` may come to hold.
  if (STATES.has(token.name)) return negated;
  if (!STRUCTURE.has(token.name)) return false;
  if (typeof token.data === 'string' && /\bof\b/i.test(token.data)) {
    const inner = /\bof\s+([\s\S]+)$/i.exec(token.data)?.[1] ?? '';
    return readSelectors(inner).every((t) => !t.unknown && !t.state && !t.part);
  }
  const inner = Array.isArray(token.data) ? token.data.flat() : [];
  return inner.every((t) => isTold(t, token.name === 'not'));
}

/** Weight of a selector (Selectors 4, 17): `:is`, `:not` and `:has` count as the heaviest of what they hold. */
function specificityOf(tokens: readonly Selector[]): number {
  return tokens.reduce((sum, token) => {
    if (token.type === 'tag' || token.type === 'pseudo-element') return sum + 1;
    if (token.type === 'attribute') return sum + (keyOf(token)?.startsWith('#') ? 1e6 : 1000);
    if (token.type !== 'pseudo' || token.name === 'where') return sum;
    if (Array.isArray(token.data) && token.data.length > 0) return sum + Math.max(...token.data.map(specificityOf));
    return sum + (isOldPart(token) ? 1 : 1000);
  }, 0);
}

type Match = (node: TreeElement, quirks: boolean) => boolean;

/** What css-select makes of a selector; undefined where it cannot. */
function matcher(tokens: Selector[]): Match | undefined {
  const made = new Map<boolean, (node: TreeNode) => boolean>();
  const make = (quirksMode: boolean) => {
    // Compiling writes into the tokens.
    const query = compile<TreeNode, TreeElement>([structuredClone(tokens)], { ...OPTIONS, quirksMode });
    made.set(quirksMode, query);
    return query;
  };
  try {
    make(false);
  } catch {
    return undefined;
  }
  return (node, quirks) => {
    try {
      return (made.get(quirks) ?? make(quirks))(node);
    } catch {
      // Nesting deeper than the call stack: hostile.
      return false;
    }
  };
}

const attributeOf = (e: TreeElement, name: string) =>
  e.attrs.find((a) => (a.prefix ? `${a.prefix}:${a.name}` : a.name) === name)?.value;
const childrenOf = (n: TreeNode) => ('childNodes' in n ? n.childNodes : []);

const OPTIONS: Options<TreeNode, TreeElement> = {
  relativeSelector: false,
  pseudos: Object.fromEntries([...STATES].map((name) => [name, () => false])),
  adapter: {
    isTag: (n): n is TreeElement => 'tagName' in n,
    getAttributeValue: attributeOf,
    hasAttrib: (e, name) => attributeOf(e, name) !== undefined,
    getChildren: childrenOf,
    getName: (e) => e.tagName.toLowerCase(),
    getParent: treeParent,
    getSiblings: (n) => ('parentNode' in n && n.parentNode ? childrenOf(n.parentNode) : [n]),
    // Asked of text only, by `:empty`.
    getText: (n) => (n.nodeName === '#text' && 'value' in n ? n.value : ''),
    removeSubsets: (nodes) => nodes,
  },
};
