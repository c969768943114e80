import { pathOf } from '../../capture/url';
import type { Check } from '../finding';
import { linkFindings } from './linkFindings';

/** Links of the page to addresses of the site that do not exist. */
export const linkMissing: Check = {
  id: 'link-missing',
  concern: 'https',
  question: 'Do the page’s links lead to pages that exist?',
  examines: 'Links in the source to URLs of the site, and the status that the sweep got there.',
  cannotSee: 'Links to other sites; pages recorded without a sweep; links that scripts add.',
  fixedWhen: 'A new sweep gets a 200 there, or the link is gone.',
  harms: ['broken'],
  standard: 'RFC 9110, 15.5.5 and 15.5.11',
  change: 'Link the nearest real page. For pages that are gone for good, a 404 or 410 is better than the home page.',
  examine(subject) {
    return linkFindings(
      this,
      subject,
      (l) => l.status >= 400,
      (l) => ({
        title: `Broken link to ${pathOf(l.url)} (${l.status})`,
        plain: 'Visitors get a 404.',
      }),
    );
  },
};
