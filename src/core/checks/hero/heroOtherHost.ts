import { hostOf, originOf, resolveUrl } from '../../capture/url';
import { finding, type Check } from '../finding';

/** The hero comes from a host that nothing has connected to before. */
export const heroOtherHost: Check = {
  id: 'hero-other-host',
  concern: 'hero',
  question: 'Must a new connection be made for the main picture?',
  looksAt: 'The host of the hero, loads that were asked of it before, and preconnect hints in the head.',
  cannotSee: 'Connections that several host names share.',
  fixedWhen: 'The hero comes from the page’s host, or a preconnect to its host stands early in the head.',
  harms: ['slow'],
  standard: 'HTML, 4.6.7.10 (preconnect); Fetch, 2.8 (connections)',
  change: 'Serve the hero from the page’s own host, or add <link rel=preconnect> to its host at the top of the head.',
  groupedBy: 'host',
  examine(subject) {
    const { hero, page } = subject;
    const { load } = hero;
    if (!load || originOf(load.url) === originOf(page.capture.page)) return [];
    const origin = originOf(load.url);
    const hinted = page.document?.elements.some(
      (e) =>
        e.tag === 'link' &&
        /\bpreconnect\b/i.test(e.attributes.get('rel') ?? '') &&
        originOf(resolveUrl(e.attributes.get('href') ?? '', page.document?.baseUrl ?? '') ?? '') === origin,
    );
    const before = page.capture.loads.some((l) => originOf(l.url) === origin && l.startMs < load.startMs - 1);
    if (hinted || before) return [];
    const { dnsMs = 0, connectMs = 0, tlsMs = 0 } = load.timings;
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: load.url,
        element: hero.element,
        load,
        numbers: { dnsMs, connectMs, tlsMs },
        title: `The hero comes from ${hostOf(load.url)}, to which nothing has connected before`,
        plain: 'The browser has to find another server and shake hands with it before it can ask for the main picture.',
      }),
    ];
  },
};
