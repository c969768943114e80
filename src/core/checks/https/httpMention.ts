import { sameSite } from '../../capture/site';
import { hostOf, isLoopbackHost, isPlainHttp, pathOf } from '../../capture/url';
import type { MentionUse } from '../../source/mentions';
import { finding, type Check } from '../finding';

const WORDS: Partial<Record<MentionUse, string>> = {
  link: 'A link',
  canonical: 'The canonical address',
  alternate: 'An alternate address',
  language: 'A language version (hreflang)',
  feed: 'A feed',
  refresh: 'A meta refresh',
  structured: 'Structured data',
  social: 'A social tag',
  base: 'The base address',
};

/** Where the insecure address is followed by browsers or treated as the main one. */
const EXPOSING = new Set<MentionUse>(['canonical', 'language', 'base', 'refresh', 'alternate']);

/** A page that names its own site by http in a link or statement about itself. Links to others' http pages are innocent. */
export const httpMention: Check = {
  id: 'http-mention',
  concern: 'https',
  question: 'Do all URLs that the page states about its own site use https?',
  examines:
    'Links, canonical, hreflang, feed and base addresses, meta refresh, social tags and structured data (JSON-LD) that use a host of this site.',
  cannotSee: 'URLs that scripts build; sitemaps and feeds, which are not part of a capture.',
  fixedWhen: 'The source uses https:// here.',
  harms: ['tidy', 'exposed'],
  standard: 'HTML, 4.2.3 and 4.6.1; RFC 6596',
  change: 'Use https:// or a relative URL in the template that prints this line.',
  examine(subject) {
    const { page } = subject;
    const host = hostOf(page.capture.page);
    if (isPlainHttp(page.capture.page)) return [];
    return page.mentions
      .filter(
        (m) =>
          WORDS[m.use] &&
          isPlainHttp(m.url) &&
          !m.element.inert &&
          sameSite(hostOf(m.url), host) &&
          !isLoopbackHost(hostOf(m.url)),
      )
      .map((m) =>
        finding({
          check: this,
          subject,
          harm: EXPOSING.has(m.use) ? 'exposed' : 'tidy',
          target: m.url,
          element: m.element,
          fault: m.use,
          offset: m.offset,
          title: `${WORDS[m.use]} uses an http:// URL of this site (${m.element.tag} ${m.attribute}: ${pathOf(m.url)})`,
          plain:
            m.use === 'refresh'
              ? 'Visitors are sent to the insecure URL automatically.'
              : m.use === 'link'
                ? 'Each click loads the insecure URL first.'
                : 'Search engines and other programs treat the insecure URL as the main one.',
        }),
      );
  },
};
