import type { CssNode, Selector } from 'css-tree';
import type { SourceDocument, SourceElement } from './document';
import { parseCss } from './parseCss';

/** A selector that can be held against elements of a document. */
export interface ElementTest {
  /** What the element itself must have, to find it by: `#id`, `.class` or `tag`; empty when anything may match. */
  readonly key: string;
  /** Ids, classes and tags that must stand somewhere in the document for it to match at all. */
  readonly needs: readonly string[];
  /** True for `::before` and the like: the rule draws a part of the element. */
  readonly part: boolean;
  /** True when it needs the visitor to do something first (`:hover`, `:focus`, ...). */
  readonly state: boolean;
  /** Ids count a million, classes and the like a thousand, tags one (Selectors 4, 17). */
  readonly specificity: number;
  matches(element: SourceElement, tree: ElementTree): boolean;
}

type Test = (element: SourceElement, tree: ElementTree) => boolean;

/** Children of every element, for what asks for siblings. */
export class ElementTree {
  private readonly children = new Map<number, SourceElement[]>();
  private readonly byKey = new Map<string, SourceElement[]>();
  private readonly classes = new Map<SourceElement, readonly string[]>();

  constructor(readonly document: SourceDocument) {
    for (const e of document.elements) {
      push(this.children, e.parent, e);
      push(this.byKey, e.tag, e);
      const id = e.attributes.get('id');
      if (id) push(this.byKey, `#${id}`, e);
      const names = classesOf(e);
      if (names.length > 0) this.classes.set(e, names);
      for (const name of names) push(this.byKey, `.${name}`, e);
    }
  }

  parentOf(e: SourceElement): SourceElement | undefined {
    return this.document.elements[e.parent];
  }

  siblingsOf(e: SourceElement): readonly SourceElement[] {
    return this.children.get(e.parent) ?? [];
  }

  hasClass(e: SourceElement, name: string): boolean {
    return this.classes.get(e)?.includes(name) ?? false;
  }

  /** False for a selector that names an id, class or tag which no element has. */
  mayMatch(test: ElementTest): boolean {
    return test.needs.every((key) => this.byKey.has(key));
  }

  /** True when some element has this tag, `.class` or `#id`. */
  hasKey(key: string): boolean {
    return this.byKey.has(key);
  }

  /** How many elements a selector has to be held against. */
  candidates(test: ElementTest): number {
    return test.key ? (this.byKey.get(test.key)?.length ?? 0) : this.document.elements.length;
  }

  /** Elements that a selector matches. */
  select(test: ElementTest): SourceElement[] {
    if (!this.mayMatch(test)) return [];
    const candidates = test.key ? (this.byKey.get(test.key) ?? []) : this.document.elements;
    return candidates.filter((e) => test.matches(e, this));
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

const STATES = new Set(
  'hover focus active visited focus-visible focus-within target checked disabled enabled invalid valid open playing paused fullscreen placeholder-shown user-invalid autofill popover-open modal'.split(
    ' ',
  ),
);

/**
 * Reads a selector list (Selectors 4): type, universal, id, class and attribute selectors, all combinators,
 * `:not() :is() :where()`, child-indexed pseudo-classes, `:root` and `:empty`-like structure as far as the source
 * tells. What is not understood matches nothing. Unreadable text gives an empty list.
 */
export function readSelectors(text: string): ElementTest[] {
  try {
    const list = parseCss(text, { context: 'selectorList' }) as CssNode & { children: Iterable<Selector> };
    return [...list.children].map(readSelector);
  } catch {
    return [];
  }
}

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
 * are not even read; the others are read once a rule, whatever documents it is held against.
 */
export function selectorsFor(rule: { readonly selectorText: string }, tree: ElementTree): ElementTest[] {
  let parts = partsOfRules.get(rule);
  if (!parts) partsOfRules.set(rule, (parts = splitList(rule.selectorText).map(readPart)));
  const out: ElementTest[] = [];
  for (const part of parts)
    if (!part.keys || part.keys.every((k) => tree.hasKey(k))) out.push(...(part.tests ??= readSelectors(part.text)));
  return out;
}

function splitList(text: string): string[] {
  return /[(["']/.test(text) ? topLevelParts(text) : text.split(',');
}

function readPart(text: string): Part {
  if (/[\\"']/.test(text)) return { text };
  const plain = /[([]/.test(text) ? text.replace(/\([^)]*\)?|\[[^\]]*\]?/g, '') : text;
  return { text, keys: plain.match(/[.#][\w\u0080-\uffff-]+/g) ?? [] };
}

/** Parts of a list between commas that are in no brackets. */
function topLevelParts(text: string): string[] {
  const out: string[] = [];
  let depth = 0;
  let start = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text[i];
    if (c === '(' || c === '[') depth++;
    else if (c === ')' || c === ']') depth--;
    else if (c === ',' && depth === 0) {
      out.push(text.slice(start, i));
      start = i + 1;
    }
  }
  out.push(text.slice(start));
  return out;
}

function readSelector(selector: Selector): ElementTest {
  interface Compound {
    readonly tests: Test[];
    combinator: string;
    key: string;
  }
  const compounds: Compound[] = [{ tests: [], combinator: '', key: '' }];
  let part = false;
  let state = false;
  let specificity = 0;
  const needs: string[] = [];
  for (const node of selector.children) {
    const last = compounds.at(-1) as Compound;
    specificity += weightOf(node);
    if (node.type === 'Combinator') compounds.push({ tests: [], combinator: node.name.trim() || ' ', key: '' });
    else if (node.type === 'PseudoElementSelector' || isOldPart(node)) part = true;
    else if (node.type === 'PseudoClassSelector' && STATES.has(node.name.toLowerCase())) state = true;
    else {
      const { test, key } = readSimple(node);
      last.tests.push(test);
      if (key) needs.push(key);
      if (key && (!last.key || rank(key) > rank(last.key))) last.key = key;
    }
  }
  const steps = compounds;
  const holds = (at: number, e: SourceElement, tree: ElementTree): boolean => {
    const own = steps[at] as Compound;
    for (const test of own.tests) if (!test(e, tree)) return false;
    if (at === 0) return own.combinator === '';
    switch (own.combinator) {
      case '>': {
        const parent = tree.parentOf(e);
        return parent !== undefined && holds(at - 1, parent, tree);
      }
      case ' ': {
        for (let p = tree.parentOf(e); p; p = tree.parentOf(p)) if (holds(at - 1, p, tree)) return true;
        return false;
      }
      default: {
        const all = tree.siblingsOf(e);
        const place = all.indexOf(e);
        if (own.combinator === '+') {
          const before = all[place - 1];
          return before !== undefined && holds(at - 1, before, tree);
        }
        return all.slice(0, place).some((b) => holds(at - 1, b, tree));
      }
    }
  };
  return {
    key: steps.at(-1)?.key ?? '',
    specificity,
    needs,
    part,
    state,
    matches: (e, tree) => holds(steps.length - 1, e, tree),
  };
}

function weightOf(node: CssNode): number {
  if (node.type === 'IdSelector') return 1e6;
  if (node.type === 'TypeSelector') return node.name === '*' ? 0 : 1;
  if (node.type === 'PseudoClassSelector') return node.name.toLowerCase() === 'where' ? 0 : 1000;
  return node.type === 'ClassSelector' || node.type === 'AttributeSelector' ? 1000 : 0;
}

const rank = (key: string) => (key.startsWith('#') ? 2 : key.startsWith('.') ? 1 : 0);

/** CSS 2 wrote parts with one colon. */
function isOldPart(node: CssNode): boolean {
  return node.type === 'PseudoClassSelector' && /^(before|after|first-line|first-letter|selection)$/i.test(node.name);
}

function readSimple(node: CssNode): { test: Test; key?: string } {
  switch (node.type) {
    case 'TypeSelector': {
      const name = node.name.toLowerCase();
      return name === '*' ? { test: () => true } : { test: (e) => e.tag === name, key: name };
    }
    case 'ClassSelector':
      return { test: (e, tree) => tree.hasClass(e, node.name), key: `.${node.name}` };
    case 'IdSelector':
      return { test: (e) => e.attributes.get('id') === node.name, key: `#${node.name}` };
    case 'AttributeSelector':
      return { test: attributeTest(node) };
    case 'PseudoClassSelector':
      return { test: pseudoTest(node) };
    default:
      return { test: () => false };
  }
}

function attributeTest(node: Extract<CssNode, { type: 'AttributeSelector' }>): Test {
  const name = node.name.name.toLowerCase();
  const wanted = node.value === null ? undefined : node.value.type === 'String' ? node.value.value : node.value.name;
  return (e) => {
    const value = e.attributes.get(name);
    if (value === undefined || wanted === undefined) return value !== undefined;
    switch (node.matcher) {
      case '~=':
        return value.split(/\s+/).includes(wanted);
      case '|=':
        return value === wanted || value.startsWith(wanted + '-');
      case '^=':
        return wanted !== '' && value.startsWith(wanted);
      case '$=':
        return wanted !== '' && value.endsWith(wanted);
      case '*=':
        return wanted !== '' && value.includes(wanted);
      default:
        return value === wanted;
    }
  };
}

function pseudoTest(node: Extract<CssNode, { type: 'PseudoClassSelector' }>): Test {
  const name = node.name.toLowerCase();
  const like = (e: SourceElement, tree: ElementTree) => tree.siblingsOf(e).filter((s) => s.tag === e.tag);
  switch (name) {
    case 'root':
      return (e) => e.tag === 'html';
    case 'first-child':
      return (e, tree) => tree.siblingsOf(e)[0] === e;
    case 'last-child':
      return (e, tree) => tree.siblingsOf(e).at(-1) === e;
    case 'only-child':
      return (e, tree) => tree.siblingsOf(e).length === 1;
    case 'first-of-type':
      return (e, tree) => like(e, tree)[0] === e;
    case 'last-of-type':
      return (e, tree) => like(e, tree).at(-1) === e;
    case 'link':
    case 'any-link':
      return (e) => e.tag === 'a' && e.attributes.has('href');
    case 'not':
    case 'is':
    case 'where': {
      const inner = innerSelectors(node);
      const any: Test = (e, tree) => inner.some((t) => !t.part && !t.state && t.matches(e, tree));
      return name === 'not' ? (e, tree) => !any(e, tree) : any;
    }
    case 'nth-child':
    case 'nth-of-type': {
      const nth = nthOf(node);
      return (e, tree) => {
        const all = name === 'nth-child' ? tree.siblingsOf(e) : like(e, tree);
        return nth !== undefined && isNth(all.indexOf(e) + 1, nth);
      };
    }
    default:
      return () => false;
  }
}

function innerSelectors(node: Extract<CssNode, { type: 'PseudoClassSelector' }>): ElementTest[] {
  const first = node.children?.first as (CssNode & { children?: Iterable<Selector> }) | null | undefined;
  return first?.type === 'SelectorList' && first.children ? [...first.children].map(readSelector) : [];
}

function nthOf(node: Extract<CssNode, { type: 'PseudoClassSelector' }>): { a: number; b: number } | undefined {
  const first = node.children?.first as { type: string; nth?: { type: string; a?: string; b?: string; name?: string } };
  const nth = first.nth;
  if (!nth) return undefined;
  if (nth.type === 'Identifier') return nth.name === 'odd' ? { a: 2, b: 1 } : { a: 2, b: 0 };
  return { a: Number(nth.a ?? 0), b: Number(nth.b ?? 0) };
}

function isNth(place: number, { a, b }: { a: number; b: number }): boolean {
  if (a === 0) return place === b;
  const n = (place - b) / a;
  return Number.isInteger(n) && n >= 0;
}
