import type { Load } from '../capture/capture';
import { originOf, resolveUrl } from '../capture/url';
import { isLinkOf } from '../source/linkRel';
import type { Page } from '../source/page';
import type { Preconnect } from './graph';

/** Which requests share connections: those with and those without credentials have their own (Fetch, 2.6). */

/** A crossorigin attribute (HTML, 2.5.4) that leaves credentials out; there without a value it does. */
const isAnonymous = (attribute: string | undefined) =>
  attribute !== undefined && attribute.trim().toLowerCase() !== 'use-credentials';

/**
 * Whether a request to another origin goes without credentials, and so over connections of its own (Fetch, 2.6): fonts,
 * module scripts, elements with `crossorigin`, and what scripts fetch unless they ask for credentials.
 */
export function goesWithoutCredentials(page: Page, load: Load): boolean {
  if (originOf(load.url) === originOf(page.capture.page)) return false;
  if (load.kind === 'font') return true;
  const elements = page.mentionsOf(load.url).flatMap((m) => (m.use === 'load' ? [m.element] : []));
  if (elements.length > 0)
    return elements.some((e) =>
      e.attributes.has('crossorigin')
        ? isAnonymous(e.attributes.get('crossorigin'))
        : e.tag === 'script' && e.attributes.get('type')?.trim().toLowerCase() === 'module',
    );
  if (load.kind !== 'data') return false;
  return !load.requestHeaders.some((h) => /^(cookie|authorization)$/i.test(h.name));
}

/** True for a hint that opens the connection which a request without (or with) credentials uses. */
export const serves = (hint: Preconnect, origin: string, anonymous: boolean): boolean =>
  hint.origin === origin && (hint.anonymous ?? false) === anonymous;

/** Hints to connect early, in headers and in markup, with the kind of connection that they ask for. */
export function listPreconnects(page: Page, byteAt: (n: number) => number): Preconnect[] {
  const inMarkup = (page.document?.elements ?? [])
    .filter((e) => !e.inert && isLinkOf(e, 'preconnect') && e.attributes.has('href'))
    .map((e) => ({
      origin: originOf(resolveUrl(e.attributes.get('href') ?? '', page.document?.baseUrl ?? '') ?? ''),
      offset: byteAt(e.startTagEnd),
      ...(isAnonymous(e.attributes.get('crossorigin')) && { anonymous: true }),
    }))
    .filter((p) => p.origin !== '');
  const inHeaders = page.headerLinks
    .filter(({ rel }) => rel.has('preconnect'))
    .map(({ url, crossorigin, early }) => ({
      origin: originOf(url),
      offset: 0,
      ...(isAnonymous(crossorigin) && { anonymous: true }),
      ...(early && { early: true as const }),
    }));
  return [...inHeaders, ...inMarkup];
}
