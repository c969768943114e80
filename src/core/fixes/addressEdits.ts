import type { Mention } from '../source/mentions';
import type { Page, PageStyle } from '../source/page';
import type { StyleReference } from '../source/stylesheet';
import { spanInAttribute, spanInText, type Span } from '../source/writtenText';
import { setAttribute, type Edit } from './edits';

/** Writes another address where the markup names one; nothing else of the attribute changes. */
export function renameMention(page: Page, mention: Mention, address: string): Edit[] {
  const { document } = page;
  if (!document) return [];
  const { element, attribute, raw } = mention;
  const span = spanOf(page, mention);
  if (mention.offset !== undefined)
    return span
      ? [
          {
            url: document.url,
            start: span.start,
            end: span.end,
            text: JSON.stringify(address).slice(1, -1).replace(/<\//g, '<\\/'),
          },
        ]
      : [];
  const quote = span?.quote ?? '';
  const list = /srcset$/.test(attribute);
  // In a list a comma at the end of an address would end its candidate.
  const written = list ? address.replace(/,+$/, (commas) => '%2C'.repeat(commas.length)) : address;
  if (span && (quote || !/[\s"'=<>`]/.test(written)))
    return [{ url: document.url, start: span.start, end: span.end, text: escaped(written, quote) }];
  const value = element.attributes.get(attribute);
  if (value === undefined) return [];
  const whole = value.slice(0, mention.at) + written + value.slice(mention.at + raw.length);
  return [setAttribute(document.url, element, attribute, whole)];
}

const escaped = (text: string, quote: string) => {
  const safe = text.replace(/&/g, '&amp;');
  return quote === "'" ? safe.replace(/'/g, '&#39;') : safe.replace(/"/g, '&quot;');
};

/** Where a mention's address stands, without white space around it. */
function spanOf(page: Page, mention: Mention): (Span & { readonly quote?: string }) | undefined {
  const { document } = page;
  if (!document) return undefined;
  if (mention.offset !== undefined)
    return { start: mention.offset, end: mention.offset + (mention.written ?? mention.raw).length };
  const lead = mention.raw.length - mention.raw.trimStart().length;
  const from = mention.at + lead;
  return spanInAttribute(document, mention.element, mention.attribute, from, from + mention.raw.trim().length);
}

/**
 * Makes an http address of the markup an https one by the one letter that is missing. One that is relative takes its
 * scheme from the base element, which is changed then.
 */
export function secureMention(page: Page, mention: Mention): Edit[] {
  if (!/^\s*http:/i.test(mention.raw)) {
    const base = page.mentions.find((m) => m.use === 'base');
    return base && base !== mention && /^\s*http:/i.test(base.raw) ? secureMention(page, base) : [];
  }
  const span = spanOf(page, mention);
  const url = page.document?.url;
  const written = span && page.document?.text.slice(span.start, span.start + 5);
  if (url === undefined || !span || !/^http:$/i.test(written ?? ''))
    return renameMention(page, mention, mention.raw.trim().replace(/^http:/i, 'https:'));
  return [{ url, start: span.start + 4, end: span.start + 4, text: 's' }];
}

/** Where an address of a stylesheet, a style element or a style attribute stands in its file. */
export function spanOfReference(
  page: Page,
  sheet: PageStyle,
  reference: StyleReference,
): (Span & { url: string }) | undefined {
  const end = reference.offset + reference.length;
  if (!sheet.element) return { url: sheet.url, start: reference.offset, end };
  if (!page.document) return undefined;
  const span =
    sheet.element.tag === 'style'
      ? spanInText(page.document, sheet.element, reference.offset, end)
      : spanInAttribute(page.document, sheet.element, 'style', reference.offset, end);
  return span && { url: page.document.url, start: span.start, end: span.end };
}

/** Makes an http address of a stylesheet an https one. */
export function secureReference(page: Page, sheet: PageStyle, reference: StyleReference): Edit[] {
  const span = /^http:/i.test(reference.raw) ? spanOfReference(page, sheet, reference) : undefined;
  return span ? [{ url: span.url, start: span.start + 4, end: span.start + 4, text: 's' }] : [];
}

/** Writes another address where a stylesheet names one. */
export function renameReference(page: Page, sheet: PageStyle, reference: StyleReference, address: string): Edit[] {
  const span = spanOfReference(page, sheet, reference);
  if (!span) return [];
  // Bare, in quotes, or in an attribute: nothing that could end any of them.
  const text = address.replace(/["'()\\\s<>]/g, (c) => `%${c.charCodeAt(0).toString(16).padStart(2, '0')}`);
  const inAttribute = sheet.element !== undefined && sheet.element.tag !== 'style';
  return [{ ...span, text: inAttribute ? text.replace(/&/g, '&amp;') : text }];
}
