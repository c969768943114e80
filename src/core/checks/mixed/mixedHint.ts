import { isThirdParty } from '../../capture/site';
import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { byWhom, isMixed, masksMixed } from './mixedKinds';

/** An http address that the source holds ready for a script or for later. */
export const mixedHint: Check = {
  id: 'mixed-hint',
  concern: 'mixed',
  question: 'Does the source name http:// URLs that will be loaded later?',
  examines:
    'Data attributes of script-driven loaders, prefetch hints and ping; those that were requested over http are findings of the load.',
  cannotSee: 'URLs in scripts and in data that scripts load.',
  fixedWhen: 'The attribute uses https://.',
  harms: ['exposed', 'tidy', 'broken'],
  standard: 'Mixed Content, 3.1; HTML, 4.6.7.14 (prefetch)',
  change: 'Use https:// in this attribute.',
  examine(subject) {
    const { page } = subject;
    const asked = new Set(page.capture.loads.map((l) => l.url));
    const upgraded = (url: string) => asked.has(url.replace(/^http:/, 'https:'));
    return page.mentions
      .filter((m) => m.use === 'hint' && !m.element.inert && isMixed(page, m.url) && !asked.has(m.url))
      .map((m) =>
        finding({
          check: this,
          subject,
          harm: masksMixed(page) || m.element.tag === 'link' ? 'tidy' : m.attribute === 'ping' ? 'broken' : 'exposed',
          target: m.url,
          element: m.element,
          fault: `${m.element.tag} ${m.attribute}`,
          numbers: { thirdParty: isThirdParty(page, m.url) ? 1 : 0 },
          title: `${m.element.tag} ${m.attribute} names ${fileName(m.url)} over http for later${byWhom(page, m.url)}`,
          plain:
            m.attribute === 'ping'
              ? 'Browsers refuse to report the click: it is not counted.'
              : upgraded(m.url)
                ? 'A script requested it over http; the browser used https instead.'
                : 'A script, or the browser when idle, will request it over http.',
        }),
      );
  },
};
