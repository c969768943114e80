import { isThirdParty } from '../../capture/site';
import { finding, type Check } from '../finding';
import { byWhom, isMixed, masksMixed } from './mixedKinds';

/** A form on a secure page that sends what was typed over http. */
export const mixedForm: Check = {
  id: 'mixed-form',
  concern: 'mixed',
  question: 'Does any form of this https page send to an http address?',
  examines: 'action of forms and formaction of their buttons, in the source as served.',
  cannotSee: 'Forms that scripts build or send; where the server forwards the data.',
  fixedWhen: 'The form uses an https:// URL.',
  harms: ['broken', 'tidy'],
  standard: 'HTML, 4.10.21.3; Mixed Content, 4.4',
  change: 'Use https:// in action or formaction once the HTTPS version works.',
  examine(subject) {
    const { page } = subject;
    // A policy that upgrades covers what forms send (Upgrade Insecure Requests, 4.1).
    const masked = masksMixed(page);
    return page.mentions
      .filter((m) => m.use === 'form' && !m.element.inert && isMixed(page, m.url))
      .map((m) =>
        finding({
          check: this,
          subject,
          harm: masked ? 'tidy' : 'broken',
          target: m.url,
          element: m.element,
          fault: `${m.element.tag} ${m.attribute}`,
          numbers: { thirdParty: isThirdParty(page, m.url) ? 1 : 0 },
          title: `A form sends over http (${m.element.tag} ${m.attribute}${byWhom(page, m.url)}${masked ? ', masked by upgrade-insecure-requests' : ''})`,
          plain: masked
            ? 'A policy makes browsers send it over https; the URL itself is still wrong.'
            : 'Browsers warn before they send this form, and anybody on the network can read what visitors type into it.',
        }),
      );
  },
};
