import { hostOf, isLoopbackHost, isPlainHttp, sameSite } from '../../capture/url';
import type { MentionUse } from '../../source/mentions';
import { finding, type Check } from '../finding';

const WORDS: Partial<Record<MentionUse, string>> = {
  link: 'A link',
  canonical: 'The canonical address',
  alternate: 'An alternate address',
  form: 'A form',
  social: 'A social tag',
  base: 'The base address',
};

/** A page that names its own site by http in a link, form or statement about itself. Links to others' http pages are innocent. */
export const httpMention: Check = {
  id: 'http-mention',
  concern: 'https',
  question: 'Does everything the page says about its own site name https?',
  looksAt:
    'Links, canonical, alternate and base addresses, forms and social tags in the source that name a host of this site.',
  cannotSee: 'Addresses put together by scripts; sitemaps and feeds, which are not part of a capture.',
  fixedWhen: 'The source names the https address in this place.',
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
          harm: m.use === 'link' || m.use === 'social' ? 'tidy' : 'exposed',
          target: m.url,
          element: m.element,
          title: `${WORDS[m.use]} names this site by http (${m.element.tag} ${m.attribute})`,
          plain:
            m.use === 'form'
              ? 'What visitors type into this form is sent readable for everybody on the way.'
              : m.use === 'link'
                ? 'Each click takes a detour over the insecure address first.'
                : 'Search engines and other programs are told that the insecure address is the right one.',
        }),
      );
  },
};
