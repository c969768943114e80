import { hostOf } from '../../capture/url';
import { finding, type Check } from '../finding';

const SAYS = new Set(['canonical', 'language', 'social', 'base', 'feed']);
const bare = (host: string) => host.replace(/^www\./, '');

/** A page that names itself by its other host name, with www or without. */
export const addressForm: Check = {
  id: 'address-form',
  concern: 'https',
  question: 'Does the page state the URL it is served from?',
  examines: 'Canonical, hreflang, social, feed and base URLs that differ from the page’s host by www alone.',
  cannotSee: 'Which of the two names the owner wants to keep.',
  fixedWhen: 'The page uses the host that it is served from.',
  harms: ['tidy'],
  standard: 'RFC 6596; HTML, 4.6.7.2',
  change: 'Use the host that serves the site, or serve the site from the host it states.',
  groupedBy: 'place',
  examine(subject) {
    const { page } = subject;
    const host = hostOf(page.capture.page);
    return page.mentions
      .filter((m) => {
        const other = hostOf(m.url);
        return SAYS.has(m.use) && !m.element.inert && other !== host && bare(other) === bare(host);
      })
      .map((m) =>
        finding({
          check: this,
          subject,
          harm: 'tidy',
          target: m.url,
          element: m.element,
          title: `The page is served from ${host} but states ${hostOf(m.url)} (${m.use})`,
          plain: 'Search engines and other programs get a URL that only redirects to this one.',
        }),
      );
  },
};
