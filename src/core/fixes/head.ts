import { topOfHead, type SourceDocument } from '../source/document';
import { insertAt, type Edit } from './edits';

/** Writes an element at the top of the head, behind what has to come first (charset, viewport). */
export function insertInHead(document: SourceDocument, html: string): Edit[] {
  const at = topOfHead(document);
  return at === undefined ? [] : [insertAt(document.url, at, `\n  ${html}`)];
}

/** An address as the value of an attribute. */
export const inAttribute = (url: string) => url.replace(/&/g, '&amp;').replace(/"/g, '&quot;');
