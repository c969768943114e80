import { isThirdParty } from '../../capture/site';
import type { LoadKind } from '../../capture/capture';
import type { Mention } from '../../source/mentions';
import { hostOf, isLoopbackHost } from '../../capture/url';
import type { SourceElement } from '../../source/document';
import type { Page } from '../../source/page';

/** What is asked for, as far as it decides what a browser does with it. */
export interface AskedFor {
  readonly url: string;
  readonly kind?: LoadKind | Mention['kind'];
  /** Element and attribute that name it, where markup does. */
  readonly element?: SourceElement;
  readonly attribute?: string;
}

/**
 * Mixed Content (W3C), 3.1 and 4.1: images, audio and video are upgradeable, everything else is blockable. So are images
 * of an img that has a srcset or stands in a picture element (HTML, 4.8.4.3.5, initiator imageset), tracks, icons, and
 * whatever an IP address serves.
 */
export function isUpgradeable(page: Page, { url, kind, element, attribute }: AskedFor): boolean {
  if (isAddress(hostOf(url)) || (kind !== 'image' && kind !== 'media')) return false;
  if (attribute === 'srcset') return false;
  if (element?.tag !== 'img' || kind !== 'image') return true;
  return !element.attributes.has('srcset') && page.document?.elements[element.parent]?.tag !== 'picture';
}

/** True for an IPv4 or IPv6 address in place of a host name. */
const isAddress = (host: string) => host.startsWith('[') || /^\d{1,3}(\.\d{1,3}){3}$/.test(host);

/** True for an http address that makes a secure page's load mixed. */
export function isMixed(page: Page, url: string): boolean {
  return page.capture.page.startsWith('https:') && /^(http|ws):\/\//i.test(url) && !isLoopbackHost(hostOf(url));
}

/** What a browser does with an http address that a secure page asks for. */
export type MixedVerdict = 'blocked' | 'upgraded' | 'allowed';

/** What a browser does with a mixed load: upgrades what is upgradeable, or all under a policy that says so, blocks the rest. */
export function predictMixed(page: Page, asked: AskedFor): MixedVerdict {
  if (masksMixed(page)) return 'upgraded';
  return isUpgradeable(page, asked) ? 'upgraded' : 'blocked';
}

/** Names the other company's host at the end of a title. */
export function byWhom(page: Page, url: string): string {
  return isThirdParty(page, url) ? `, from ${hostOf(url)}` : '';
}

/** What the visitor notices, in plain words. */
export function mixedPlain(upgradeable: boolean, what: string): string {
  return upgradeable
    ? `Browsers request the ${what} over https instead. If that fails, visitors see a gap.`
    : `Browsers block the ${what}: it is missing for every visitor.`;
}

/** True when the page has browsers upgrade everything (CSP upgrade-insecure-requests). */
export function masksMixed(page: Page): boolean {
  const document = page.capture.loads[page.capture.documentIndex];
  const policies = [
    ...(document?.responseHeaders
      .filter((h) => h.name.toLowerCase() === 'content-security-policy')
      .map((h) => h.value) ?? []),
    ...(page.document?.elements
      .filter((e) => e.tag === 'meta' && e.attributes.get('http-equiv')?.toLowerCase() === 'content-security-policy')
      .map((e) => e.attributes.get('content') ?? '') ?? []),
  ];
  return policies.some((p) => /upgrade-insecure-requests/i.test(p));
}
