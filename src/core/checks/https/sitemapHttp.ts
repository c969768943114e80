import { pathOf } from '../../capture/url';
import { finding, type Check } from '../finding';

/** Pages that a sitemap names by http. */
export const sitemapHttp: Check = {
  id: 'sitemap-http',
  concern: 'https',
  question: 'Do sitemaps use https for this page?',
  examines: 'The sitemaps that the sweep read.',
  cannotSee: 'Sitemaps that neither robots.txt nor the settings list; pages recorded without a sweep.',
  fixedWhen: 'The sitemap uses https://.',
  harms: ['tidy'],
  standard: 'Sitemaps protocol, loc; RFC 9309, 2.2.4',
  change: 'Make the sitemap generator use https://.',
  groupedBy: 'host',
  examine(subject) {
    const named = subject.crawl?.sitemapHttp;
    if (!named) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'tidy',
        target: named.sitemap,
        path: named.url,
        title: `The sitemap ${pathOf(named.sitemap)} uses an http:// URL for this page`,
        plain: 'Search engines treat the insecure URL as the main one.',
      }),
    ];
  },
};
