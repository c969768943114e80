import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';

/** A redirect in front of the page or of one of its files. */
export const redirectInFront: Check = {
  id: 'redirect-in-front',
  concern: 'blocking',
  question: 'Do the page or its files go through redirects?',
  examines: 'Redirect responses of the load record (RFC 9110, 15.4), for the page itself and for every file.',
  cannotSee: 'Redirects that a browser caches for later visits.',
  fixedWhen: 'Links to the page and the markup use final URLs.',
  harms: ['slow', 'tidy'],
  standard: 'RFC 9110, 15.4',
  change: 'Use the final URL here.',
  examine(subject) {
    const { page } = subject;
    return page.capture.loads
      .filter((l) => l.redirectTo && l.status >= 300)
      .map((load) => {
        const ofPage = load.kind === 'document';
        const element = ofPage ? undefined : page.mentionsOf(load.url)[0]?.element;
        return finding({
          check: this,
          subject,
          harm:
            ofPage || ['style', 'script'].includes(load.kind) || page.loadOf(load.url) === subject.hero.load
              ? 'slow'
              : 'tidy',
          target: load.url,
          element,
          load,
          numbers: { waitedMs: Math.round(load.endMs - load.startMs), status: load.status },
          title: `${ofPage ? 'The page' : fileName(load.url)} redirects (${load.status}) to ${nameOf(load.redirectTo ?? '', load.url)}`,
          plain: ofPage
            ? 'Visitors wait for a redirect before the page itself is requested.'
            : 'The browser makes two requests for this file, since the page uses its old URL.',
        });
      });
  },
};

/** The short name of a target, or all of it where the short names are alike. */
function nameOf(target: string, from: string): string {
  return fileName(target) === fileName(from) ? target : fileName(target);
}
