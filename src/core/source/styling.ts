import { mediaMatches, screenOf } from './media';
import { selectorsFor, type ElementTest } from './selectors';
import { applies, readDeclarations, type StyleRule } from './rules';
import type { SourceElement } from './document';
import type { Page, PageStyle } from './page';
import { linksStylesheet } from './linkRel';

/** A rule that matches an element, with the sheet it stands in. */
export interface MatchedRule {
  readonly sheet: PageStyle;
  readonly rule: StyleRule;
}

/** A declared value and the rule it comes from; none for a style attribute. */
export interface Declared {
  readonly value: string;
  readonly by?: MatchedRule;
}

type Entry = MatchedRule & { readonly test: ElementTest; readonly order: number };

interface Styling {
  readonly index: ReadonlyMap<string, readonly Entry[]>;
  readonly known: WeakMap<SourceElement, ReadonlyMap<string, Declared>>;
  /** Comparisons that may still be made: hostile sheets must not hold an audit up. */
  left: number;
}

const MOST_COMPARISONS = 3_000_000;

const stylings = new WeakMap<Page, Styling>();

/** Rules of a page's sheets by what their selectors end in: an element is compared with few of them. */
function stylingOf(page: Page): Styling {
  const made = stylings.get(page);
  if (made) return made;
  const index = new Map<string, Entry[]>();
  const screen = screenOf(page.capture.conditions);
  let order = 0;
  for (const sheet of page.styles) {
    if (!sheetApplies(page, sheet)) continue;
    for (const rule of page.rulesOf(sheet).rules) {
      if (!applies(rule, screen)) continue;
      order++;
      for (const test of page.tree ? selectorsFor(rule, page.tree) : []) {
        if (test.part || test.state || test.unknown || !page.tree?.mayMatch(test)) continue;
        const list = index.get(test.key);
        if (list) list.push({ sheet, rule, test, order });
        else index.set(test.key, [{ sheet, rule, test, order }]);
      }
    }
  }
  const styling = {
    index,
    known: new WeakMap<SourceElement, ReadonlyMap<string, Declared>>(),
    left: MOST_COMPARISONS,
  };
  stylings.set(page, styling);
  return styling;
}

/** False for sheets for other media and other looks, which browsers fetch all the same. */
function sheetApplies(page: Page, sheet: PageStyle): boolean {
  const screen = screenOf(page.capture.conditions);
  if (sheet.element)
    return sheet.element.tag === 'style' && mediaMatches(sheet.element.attributes.get('media'), screen);
  const links = page.mentionsOf(sheet.url).filter((m) => m.element.tag === 'link' && !m.element.inert);
  if (links.length === 0) return true;
  return links.some(({ element }) => {
    const { attributes } = element;
    // A preload that turns into a stylesheet when it is there, as anything that an onload changes, applies in the end.
    if (attributes.has('onload')) return !attributes.has('disabled');
    return linksStylesheet(element) && mediaMatches(attributes.get('media'), screen);
  });
}

/**
 * What is declared for an element of the source on the capture's screen before anybody touches the page: importance,
 * specificity and order decide, a style attribute stands above rules (CSS Cascade 5, 6.1). Inheritance is not
 * followed; sheets count in the order in which they came. After three million comparisons rules count no more.
 */
export function declaredFor(page: Page, element: SourceElement): ReadonlyMap<string, Declared> {
  const { tree } = page;
  const styling = stylingOf(page);
  const known = styling.known.get(element);
  if (known) return known;
  const out = new Map<string, Declared & { weight: number; order: number }>();
  const put = (property: string, value: string, weight: number, order: number, by?: MatchedRule) => {
    const important = /!\s*important\s*$/i.test(value);
    const own = {
      value: important ? value.replace(/\s*!\s*important\s*$/i, '') : value,
      weight: weight + (important ? 1e12 : 0),
      order,
      by,
    };
    const before = out.get(property);
    if (!before || own.weight > before.weight || (own.weight === before.weight && order >= before.order))
      out.set(property, own);
  };
  if (tree) {
    const keys = ['', element.tag.toLowerCase()];
    const id = element.attributes.get('id');
    if (id) keys.push(`#${id}`);
    for (const name of new Set((element.attributes.get('class') ?? '').split(/\s+/))) if (name) keys.push(`.${name}`);
    for (const key of keys)
      for (const entry of styling.index.get(key) ?? [])
        if (styling.left-- > 0 && entry.test.matches(element, tree))
          for (const [property, value] of entry.rule.declarations)
            put(property, value, entry.test.specificity, entry.order, entry);
  }
  const inline = element.attributes.get('style');
  if (inline !== undefined) for (const [property, value] of readDeclarations(inline)) put(property, value, 1e9, 0);
  styling.known.set(element, out);
  return out;
}

/** One declared value of an element. */
export function declaredValue(page: Page, element: SourceElement, property: string): Declared | undefined {
  return declaredFor(page, element).get(property);
}

/** An element and what it stands in, innermost first, up to the root. */
export function lineage(page: Page, element: SourceElement): SourceElement[] {
  const out: SourceElement[] = [];
  for (let e: SourceElement | undefined = element; e; e = page.document?.elements[e.parent]) out.push(e);
  return out;
}
