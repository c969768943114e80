import { finding, type Check } from '../finding';
import { isMixed, masksMixed } from './mixedKinds';

/** A policy that has browsers upgrade http addresses hides how many there are. */
export const mixedMasked: Check = {
  id: 'mixed-masked',
  concern: 'mixed',
  question: 'Does a policy mask http:// URLs that are still in the page?',
  examines: 'upgrade-insecure-requests in Content-Security-Policy, by header or meta, and the http:// URLs it masks.',
  cannotSee: 'Rewriting by a server or proxy in between, which leaves no trace.',
  fixedWhen: 'No http:// URL is left; then the policy has nothing to do.',
  harms: ['tidy'],
  standard: 'Upgrade Insecure Requests, 3.1 and 4.1',
  change: 'Keep the policy, and correct the URLs: other programs still see them.',
  groupedBy: 'place',
  examine(subject) {
    const { page } = subject;
    if (!masksMixed(page)) return [];
    const markup = page.mentions.filter(
      (m) => (m.use === 'load' || m.use === 'form') && !m.element.inert && isMixed(page, m.url),
    );
    const styles = page.styles.flatMap((s) => s.references.filter((r) => isMixed(page, r.url)));
    const masked = markup.length + styles.length;
    if (masked === 0) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'tidy',
        target: page.capture.page,
        element: markup[0]?.element,
        load: page.capture.loads[page.capture.documentIndex],
        numbers: { masked },
        title: `upgrade-insecure-requests masks ${masked} http:// ${masked === 1 ? 'URL' : 'URLs'}`,
        plain: 'Browsers use https instead. The wrong URLs are still in the page.',
      }),
    ];
  },
};
