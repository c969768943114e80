import { decodeHTMLAttribute } from 'entities';
import type { SourceDocument, SourceElement } from './document';

/** A stretch of the source. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

/** How the value of an attribute is written: between which quotes, if any. */
export interface AttributeSpan extends Span {
  readonly quote: '"' | "'" | '';
}

/**
 * Where a part of an attribute's value stands in the source. Character references and line ends make the written text
 * differ from the value (HTML, 13.2.5.36 to 38); undefined where the two cannot be brought together.
 */
export function spanInAttribute(
  document: SourceDocument,
  element: SourceElement,
  attribute: string,
  from: number,
  to: number,
): AttributeSpan | undefined {
  const value = element.attributes.get(attribute);
  const place = element.attributePlaces.get(attribute);
  const written = place && document.text.slice(place.start, place.end);
  const head = written && /^[^\s=]+\s*=\s*/.exec(written)?.[0];
  if (value === undefined || !place || !written || !head) return undefined;
  const first = written[head.length];
  const quote = first === '"' || first === "'" ? first : '';
  const start = place.start + head.length + quote.length;
  const end = place.end - quote.length;
  const text = document.text.slice(start, end);
  if (text === value) return { start: start + from, end: start + to, quote };
  const offsets = decodedOffsets(text, value);
  const [a, b] = [offsets?.[from], offsets?.[to]];
  return a === undefined || b === undefined ? undefined : { start: start + a, end: start + b, quote };
}

/** For each offset in the value, the offset in the written text; undefined when they do not agree. */
function decodedOffsets(text: string, value: string): number[] | undefined {
  const out: number[] = [];
  let decoded = '';
  const add = (piece: string, at: number) => {
    for (let i = 0; i < piece.length; i++) out.push(at);
    decoded += piece;
  };
  for (let i = 0; i < text.length;) {
    const reference =
      text[i] === '&' ? /^&(?:#\d+|#x[\da-f]+|[a-z][a-z\d]*);?/i.exec(text.slice(i, i + 40))?.[0] : undefined;
    if (reference !== undefined) {
      // What follows decides whether a reference without semicolon counts.
      const next = text[i + reference.length] ?? '';
      const read = decodeHTMLAttribute(reference + next);
      add(next && read.endsWith(next) ? read.slice(0, -next.length) : read, i);
      i += reference.length;
    } else if (text[i] === '\r') {
      add('\n', i);
      i += text[i + 1] === '\n' ? 2 : 1;
    } else {
      add(text[i] as string, i);
      i++;
    }
  }
  out.push(text.length);
  return decoded === value ? out : undefined;
}

/**
 * Where a part of an element's raw text (style, script) stands in the source: the parser turns CR LF into LF
 * (HTML, 13.2.3.5).
 */
export function spanInText(document: SourceDocument, element: SourceElement, from: number, to: number): Span {
  const { text } = document;
  const offset = (wanted: number) => {
    let at = element.startTagEnd;
    for (let n = 0; n < wanted; n++) at += text[at] === '\r' && text[at + 1] === '\n' ? 2 : 1;
    return at;
  };
  // The common case needs no counting.
  const end = element.startTagEnd + to;
  if (!text.slice(element.startTagEnd, end + 1).includes('\r')) return { start: element.startTagEnd + from, end };
  return { start: offset(from), end: offset(to) };
}
