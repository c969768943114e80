import { displayOf, fontUses, hidesText } from '../source/fontUse';
import { ownText, type SourceElement } from '../source/document';
import type { Page } from '../source/page';
import { unquote } from '../source/rules';
import { declaredValue } from '../source/styling';
import { undrawnAround } from '../source/hidden';
import { isPicture } from './firstContent';

/**
 * Load of the font that an element's text is drawn in, when text in it stays invisible until it has come
 * (CSS Fonts 4, 4.9); -1 when it does not. Text may stand in an element inside.
 */
export function hidingFont(page: Page, element: SourceElement | undefined): number {
  const family = element && familyOf(page, holderOfText(page, element));
  if (!family) return -1;
  return (
    fontUses(page).find((use) => hidesText(use) && use.face?.name.toLowerCase() === family.toLowerCase())?.load.index ??
    -1
  );
}

/** The first element inside, or this one itself, that text stands in directly. */
function holderOfText(page: Page, element: SourceElement): SourceElement {
  const { document } = page;
  if (!document) return element;
  const from = document.elements.indexOf(element);
  for (let i = from; i >= 0 && i < document.elements.length; i++) {
    const e = document.elements[i] as SourceElement;
    if (e.start >= element.end) break;
    if (!e.inert && ownText(e) !== undefined) return e;
  }
  return element;
}

/**
 * Font in which all text of the body is drawn, when that hides it; -1 where something shows before: some text, or a drawing
 * in the first screen, which is content as well (Paint Timing, 2) and waits for no font.
 */
export function contentFont(page: Page): number {
  const elements = page.document?.elements.filter((e) => !e.inHead && !e.inert) ?? [];
  const font = hidingFont(
    page,
    elements.find((e) => e.tag === 'body'),
  );
  if (font < 0) return -1;
  const text = elements.filter((e) => /^(h[1-6]|p|a|li|strong|span|button)$/.test(e.tag));
  if (!text.slice(0, 12).every((e) => hidingFont(page, e) === font)) return -1;
  const seen = new Set(page.capture.observations?.firstScreen);
  const drawings = elements.filter((e) => e.tag === 'svg' && seen.has(e.path));
  return drawings.some((e) => isPicture(page, e) && !undrawnAround(page, e)) ? -1 : font;
}

/** Fonts whose rule leaves it to the browser how long their text may stay invisible (font-display: auto). */
export function fontsLeftToBrowser(page: Page): Set<number> {
  return new Set(fontUses(page).flatMap((use) => (displayOf(use) === 'auto' ? [use.load.index] : [])));
}

/** Load of the stylesheet that names each font, by the font's load; none for what the document itself names. */
export function sheetsOfFonts(page: Page): Map<number, number> {
  return new Map(fontUses(page).flatMap(({ load, sheet }) => (sheet.load ? [[load.index, sheet.load.index]] : [])));
}

/** The first family that is declared for an element or, inherited, for one around it. */
function familyOf(page: Page, element: SourceElement): string | undefined {
  for (let at: SourceElement | undefined = element; at; at = page.tree?.parentOf(at)) {
    const value =
      declaredValue(page, at, 'font-family')?.value ?? familiesOfShorthand(declaredValue(page, at, 'font')?.value);
    if (value && !/^(inherit|unset)/.test(value))
      return unquote(partsOf(withVariables(page, at, value), ',')[0]?.trim() ?? '');
  }
  return undefined;
}

/** Uses of custom properties that are followed from one to the next: they may go in circles. */
const MOST_VARIABLES = 8;

/** A value with the custom properties that it uses put in, as they are inherited (CSS Variables 1, 3). */
function withVariables(page: Page, element: SourceElement, value: string): string {
  let out = value;
  for (let n = 0; n < MOST_VARIABLES; n++) {
    const use = /var\(\s*(--[\w-]+)\s*(?:,([^()]*))?\)/.exec(out);
    if (!use) break;
    out = out.replace(use[0], () => inherited(page, element, use[1] ?? '') ?? use[2] ?? '');
  }
  return out;
}

function inherited(page: Page, element: SourceElement, property: string): string | undefined {
  for (let at: SourceElement | undefined = element; at; at = page.tree?.parentOf(at)) {
    const own = declaredValue(page, at, property)?.value;
    if (own !== undefined) return own;
  }
  return undefined;
}

const SIZE =
  /^(?:[+-]?[\d.]+(?:[a-z]+|%)|(?:calc|clamp|min|max|var)\(.*\)|(?:xx?-|xxx-)?(?:small|large)|medium|smaller|larger)$/i;

/** The families of a `font` shorthand (CSS Fonts 4, 2.7): what follows the size and the line height. */
export function familiesOfShorthand(value: string | undefined): string | undefined {
  const parts = partsOf((value ?? '').replace(/\s*\/\s*/g, '/'), ' ').filter(Boolean);
  const at = parts.findIndex((p) => SIZE.test(partsOf(p, '/')[0] ?? ''));
  return at >= 0 && at < parts.length - 1 ? parts.slice(at + 1).join(' ') : undefined;
}

/** A text cut at a separator outside brackets and quotes. */
function partsOf(text: string, separator: string): string[] {
  const out = [''];
  let depth = 0;
  let quote = '';
  for (const c of text.replace(/\s+/g, ' ')) {
    if (quote) quote = c === quote ? '' : quote;
    else if (c === '"' || c === "'") quote = c;
    else if (c === '(') depth++;
    else if (c === ')') depth--;
    if (c === separator && depth <= 0 && !quote) out.push('');
    else out[out.length - 1] += c;
  }
  return out;
}
