import { isThirdParty } from '../../capture/site';
import type { LoadKind } from '../../capture/capture';
import type { Mention } from '../../source/mentions';
import { hostOf, isLoopbackHost, isPlainHttp } from '../../capture/url';
import type { Page } from '../../source/page';

/**
 * Mixed Content (W3C), section 3: images, audio and video are upgradeable, everything else is
 * blockable, icons too; so are images of a srcset or picture element.
 */
export function isUpgradeable(kind: LoadKind | Mention['kind'], attribute = ''): boolean {
  if (attribute === 'srcset' || attribute === 'imagesrcset') return false;
  return kind === 'image' || kind === 'media';
}

/** True for an http address that makes a secure page's load mixed. */
export function isMixed(page: Page, url: string): boolean {
  return page.capture.page.startsWith('https:') && isPlainHttp(url) && !isLoopbackHost(hostOf(url));
}

/** What a browser does with an http address that a secure page asks for. */
export type MixedVerdict = 'blocked' | 'upgraded' | 'allowed';

/** What a browser does with a mixed load: upgrades what is upgradeable, or all under a policy that says so, blocks the rest. */
export function predictMixed(page: Page, kind: LoadKind | Mention['kind'], attribute = ''): MixedVerdict {
  if (masksMixed(page)) return 'upgraded';
  return isUpgradeable(kind, attribute) ? 'upgraded' : 'blocked';
}

/** Names the other company's host at the end of a title. */
export function byWhom(page: Page, url: string): string {
  return isThirdParty(page, url) ? `, from ${hostOf(url)}` : '';
}

/** What the visitor notices, in plain words. */
export function mixedPlain(upgradeable: boolean, what: string): string {
  return upgradeable
    ? `Browsers ask for the ${what} over https instead; where that does not answer, visitors see a gap.`
    : `Browsers refuse to load the ${what}: what it should do or show is missing for every visitor.`;
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
