import type { SourceElement } from './document';

/** The words of an attribute such as `rel` or `blocking`, in lower case (a set of space-separated tokens, HTML, 2.3.7). */
export function tokensOf(value: string | undefined): ReadonlySet<string> {
  return new Set(
    (value ?? '')
      .toLowerCase()
      .split(/[\t\n\f\r ]+/)
      .filter(Boolean),
  );
}

/** True for a link of one type, such as `preload`. */
export function isLinkOf(element: Pick<SourceElement, 'tag' | 'attributes'>, type: string): boolean {
  return element.tag === 'link' && tokensOf(element.attributes.get('rel')).has(type);
}

/**
 * True for a link whose stylesheet applies as soon as it is there: not an alternative that the visitor has to choose
 * and not a disabled one (HTML, 4.6.7.20). Its media query is another matter.
 */
export function linksStylesheet(element: Pick<SourceElement, 'tag' | 'attributes'>): boolean {
  return (
    isLinkOf(element, 'stylesheet') &&
    !tokensOf(element.attributes.get('rel')).has('alternate') &&
    !element.attributes.has('disabled')
  );
}
