import type { Subject } from '../finding';
import { DEFERRED_SOURCE } from '../../source/mentions';
import type { SourceElement } from '../../source/document';
import { resolveUrl } from '../../capture/url';

/** The technique by which the markup delays the hero, if any. */
export type LazyTechnique = 'attribute' | 'data' | 'background' | 'script' | 'none';

/** In which technique, if any, the hero of a page is lazy. */
export function lazyTechnique({ hero, page }: Subject): LazyTechnique {
  if (!hero.url) return 'none';
  const element = hero.element;
  if (element && hero.kind === 'image') {
    if (deferredAttribute(element) && !srcIs(element, hero.url, page.document?.baseUrl)) return 'data';
    if (element.attributes.get('loading')?.toLowerCase() === 'lazy') return 'attribute';
    return 'none';
  }
  if (hero.kind === 'background') return 'background';
  return page.document && hero.seen ? 'script' : 'none';
}

/** The data attribute that holds the real picture. */
export function deferredAttribute(element: SourceElement): string | undefined {
  for (const [name, value] of element.attributes) if (DEFERRED_SOURCE.test(name) && /[./]/.test(value)) return name;
  return undefined;
}

function srcIs(element: SourceElement, url: string, base: string | undefined): boolean {
  const src = element.attributes.get('src');
  return src !== undefined && src !== '' && resolveUrl(src, base ?? '') === url;
}
