import { pathOf } from '../../capture/url';
import type { Check } from '../finding';
import { linkFindings } from './linkFindings';

/** Links of the page that reach their pages through redirects: another spelling, or http. */
export const linkRedirected: Check = {
  id: 'link-redirected',
  concern: 'https',
  question: 'Do the page’s links name final URLs?',
  examines: 'Links in the source to URLs of the site that redirected the sweep.',
  cannotSee: 'Links to other sites; pages recorded without a sweep; links that scripts add.',
  fixedWhen: 'The link uses the final URL of the page.',
  harms: ['tidy'],
  standard: 'RFC 9110, 15.4; RFC 3986, 6.2',
  change: 'Use the final URL, in the site’s own form (trailing slash, case, no index file).',
  examine(subject) {
    return linkFindings(
      this,
      subject,
      (l) => l.hops > 0 && l.status < 400,
      (l) => ({
        title: `A link to ${pathOf(l.url)} goes through ${l.hops} ${l.hops === 1 ? 'redirect' : 'redirects'} to ${pathOf(l.end)}`,
        plain: 'Each click, and each visit of a search engine, goes through a redirect first.',
      }),
    );
  },
};
