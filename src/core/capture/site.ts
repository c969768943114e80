import { hostOf } from './url';
import { getDomain } from 'tldts';

const known = new Map<string, string>();

/**
 * The registrable domain of a host by the public suffix list, private suffixes among them; the host itself where there
 * is none (addresses, single labels).
 */
export function registrableDomain(host: string): string {
  let domain = known.get(host);
  if (domain === undefined) {
    domain = getDomain(host, { allowPrivateDomains: true }) ?? host;
    if (known.size >= 1000) known.clear();
    known.set(host, domain);
  }
  return domain;
}

/** True when two hosts belong to one site (HTML, 7.1.1, without the scheme). */
export function sameSite(a: string, b: string): boolean {
  return a === b || registrableDomain(a) === registrableDomain(b);
}

/** True for an address on a site other than the captured page's. */
export function isThirdParty(page: { readonly capture: { readonly page: string } }, url: string): boolean {
  return !sameSite(hostOf(url), hostOf(page.capture.page));
}
