import { screenOf } from './media';
import { applies, readDeclarations, type StyleRule } from './rules';
import type { SourceElement } from './document';
import type { Page, PageStyle } from './page';

/** A rule that matches an element, with the sheet it stands in. */
export interface MatchedRule {
  readonly sheet: PageStyle;
  readonly rule: StyleRule;
}

type Entry = MatchedRule & { readonly test: StyleRule['selectors'][number] };

const indexes = new WeakMap<Page, Map<string, Entry[]>>();

/** Rules of a page's sheets by what their selectors end in: an element is held against few of them. */
function indexOf(page: Page): Map<string, Entry[]> {
  const known = indexes.get(page);
  if (known) return known;
  const index = new Map<string, Entry[]>();
  const screen = screenOf(page.capture.conditions);
  for (const sheet of page.styles) {
    if (sheet.element && sheet.element.tag !== 'style') continue;
    for (const rule of page.rulesOf(sheet).rules) {
      if (!applies(rule, screen)) continue;
      for (const test of rule.selectors) {
        const list = index.get(test.key);
        if (list) list.push({ sheet, rule, test });
        else index.set(test.key, [{ sheet, rule, test }]);
      }
    }
  }
  indexes.set(page, index);
  return index;
}

/** Rules that apply to an element of the source on the capture's screen, before anybody touches the page. */
export function matchedRules(page: Page, element: SourceElement): MatchedRule[] {
  const { tree } = page;
  if (!tree) return [];
  const index = indexOf(page);
  const keys = ['', element.tag];
  const id = element.attributes.get('id');
  if (id) keys.push(`#${id}`);
  for (const name of (element.attributes.get('class') ?? '').split(/\s+/)) if (name) keys.push(`.${name}`);
  return keys.flatMap((key) =>
    (index.get(key) ?? []).filter(({ test }) => !test.part && !test.state && test.matches(element, tree)),
  );
}

/** The last declared value of a property for an element (style attribute first), without regard to specificity. */
export function declaredValue(
  page: Page,
  element: SourceElement,
  property: string,
): { readonly value: string; readonly by?: MatchedRule } | undefined {
  const inline = element.attributes.get('style');
  const own = inline === undefined ? undefined : readDeclarations(inline).get(property);
  if (own !== undefined) return { value: own };
  const by = matchedRules(page, element).findLast((m) => m.rule.declarations.has(property));
  return by && { value: by.rule.declarations.get(property) ?? '', by };
}

/** An element and what it stands in, innermost first, up to the root. */
export function lineage(page: Page, element: SourceElement): SourceElement[] {
  const out: SourceElement[] = [];
  for (let e: SourceElement | undefined = element; e; e = page.document?.elements[e.parent]) out.push(e);
  return out;
}
