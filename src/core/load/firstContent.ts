import { ownText, type SourceDocument, type SourceElement } from '../source/document';
import { undrawnAround } from '../source/hidden';
import type { Page } from '../source/page';
import { declaredValue } from '../source/styling';

/** Elements inside which no text is drawn: what they hold is code, a fallback or a choice for a field. */
const WITHOUT_TEXT = new Set([
  'script',
  'style',
  'title',
  'template',
  'noscript',
  'video',
  'audio',
  'canvas',
  'iframe',
  'object',
  'datalist',
]);

/** Elements that are content by themselves (Paint Timing, 2); a canvas is when a script has drawn on it. */
const PICTURES = new Set(['img', 'svg', 'video', 'object', 'embed']);

/** Fields in which text is drawn: what they hold, what they ask for, or a label of the browser's. */
const LABELLED = new Set(['submit', 'reset', 'button', 'file', 'date', 'time', 'datetime-local', 'month', 'week']);
const WITHOUT_LABEL = new Set(['hidden', 'checkbox', 'radio', 'range', 'color']);

/** How many elements are looked at that styles keep from being drawn. */
const MOST_UNDRAWN = 200;

/**
 * Where the first content of a document stands that is painted before any script has changed something: text or a
 * picture (Paint Timing, 2, "contentful"). Boxes without either, and elements that scripts define, are none.
 * @returns its offset in the source, undefined when scripts make all that is seen
 */
export function firstContent(page: Page, document: SourceDocument): number | undefined {
  let looked = 0;
  let leftTo = 0;
  // Where no body stands in the source the parser adds one, and text may stand in it directly.
  const implied = document.implied.find((e) => e.tag === 'body');
  let first = implied && ownText(implied);
  for (const e of document.elements) {
    if (first !== undefined && e.start > first) break;
    if (e.inHead || e.inert || e.start < leftTo) continue;
    const at = isPicture(page, e) ? e.startTagEnd : WITHOUT_TEXT.has(e.tag) ? undefined : textOf(e);
    if (WITHOUT_TEXT.has(e.tag) || e.tag === 'svg') leftTo = Math.max(leftTo, e.end);
    if (at === undefined || (first !== undefined && at >= first)) continue;
    const undrawn = looked++ < MOST_UNDRAWN ? undrawnAround(page, e) : undefined;
    if (undrawn) leftTo = Math.max(leftTo, undrawn.end);
    else first = at;
  }
  return first;
}

/** Sprites of symbols stand in a drawing without size. */
export function isPicture(page: Page, e: SourceElement): boolean {
  if (!PICTURES.has(e.tag)) return false;
  const sizeOf = (property: 'width' | 'height') =>
    declaredValue(page, e, property)?.value ?? e.attributes.get(property) ?? '';
  return e.tag !== 'svg' || !(['width', 'height'] as const).some((p) => /^0(px)?$/.test(sizeOf(p).trim()));
}

function textOf(e: SourceElement): number | undefined {
  if (e.tag === 'input') return isLabelled(e) ? e.startTagEnd : undefined;
  if (e.tag === 'textarea' && e.attributes.get('placeholder')?.trim()) return e.startTagEnd;
  return ownText(e);
}

function isLabelled(input: SourceElement): boolean {
  const type = input.attributes.get('type')?.toLowerCase() ?? 'text';
  if (LABELLED.has(type) || type === 'image') return true;
  return !WITHOUT_LABEL.has(type) && ['value', 'placeholder'].some((name) => input.attributes.get(name)?.trim());
}
