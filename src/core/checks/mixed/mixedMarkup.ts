import { isThirdParty } from '../../capture/site';
import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { byWhom, isMixed, isUpgradeable, masksMixed, mixedPlain } from './mixedKinds';

const NAMES: Readonly<Record<string, string>> = {
  image: 'picture',
  style: 'stylesheet',
  script: 'script',
  frame: 'embedded page',
  media: 'film or sound',
  track: 'subtitles',
  font: 'font',
  object: 'embedded object',
  icon: 'icon',
  manifest: 'manifest',
  other: 'file',
};

/** A secure page whose markup has the browser fetch over http. */
export const mixedMarkup: Check = {
  id: 'mixed-markup',
  concern: 'mixed',
  question: 'Does the markup of this https page load anything over http?',
  examines:
    'src, srcset, imagesrcset, poster, data, href of every element that loads and import maps, in the source as served; the base address.',
  cannotSee: 'What scripts add later (see mixed-load); other states of the page than the recorded one.',
  fixedWhen: 'The markup uses https://, and the file loads from there.',
  harms: ['broken', 'exposed', 'tidy'],
  standard: 'Mixed Content, 3.1 and 3.2',
  change: 'Use https:// in this attribute once the HTTPS version works, or host the file yourself.',
  examine(subject) {
    const { page } = subject;
    const masked = masksMixed(page);
    return page.mentions
      .filter((m) => m.use === 'load' && !m.element.inert && isMixed(page, m.url))
      .map((m) => {
        const upgradeable = isUpgradeable(page, m);
        const what = NAMES[m.kind ?? 'other'] ?? 'file';
        const kind = upgradeable ? 'upgradeable' : 'blockable';
        return finding({
          check: this,
          subject,
          harm: masked ? 'tidy' : upgradeable ? 'exposed' : 'broken',
          target: m.url,
          element: m.element,
          load: page.loadOf(m.url),
          fault: `${m.element.tag} ${m.attribute}`,
          numbers: { upgradeable: upgradeable ? 1 : 0, thirdParty: isThirdParty(page, m.url) ? 1 : 0 },
          title: `${m.element.tag} ${m.attribute} loads ${fileName(m.url)} over http (${what}, ${kind}${byWhom(page, m.url)}${masked ? ', masked by upgrade-insecure-requests' : ''})`,
          plain: masked
            ? 'A policy makes browsers request it over https; the URL itself is still wrong.'
            : mixedPlain(upgradeable, what),
        });
      });
  },
};
