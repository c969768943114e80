import { finding, type Check } from '../finding';
import { byWhom, isForeign, isMixed, isUpgradeable, mixedPlain } from './mixedKinds';

/** A request over http that the load record shows and no source names: asked for by a script or on the way of a redirect. */
export const mixedLoad: Check = {
  id: 'mixed-load',
  concern: 'mixed',
  question: 'Did anything travel over http, or was it refused, while this https page loaded?',
  looksAt: 'Every request of the load record, redirect hops among them.',
  cannotSee: 'Requests that a visitor sets off later by scrolling or clicking.',
  fixedWhen: 'A new recording has no load over http, and nothing was refused.',
  harms: ['broken', 'exposed'],
  standard: 'Mixed Content, 4.1 and 4.3',
  change: 'Name the https address in the script, or in the redirect that leads to http.',
  examine(subject) {
    const { page } = subject;
    const named = new Set([
      ...page.mentions.filter((m) => m.use === 'load').map((m) => m.url),
      ...page.styles.flatMap((s) => s.references.map((r) => r.url)),
    ]);
    return page.capture.loads
      .filter((l) => l.kind !== 'document' && isMixed(page, l.url) && !named.has(l.url))
      .map((load) => {
        const upgradeable = isUpgradeable(load.kind);
        const through = page.capture.loads.find((l) => l.redirectTo === load.url);
        const refused = load.mixedBlocked ?? (!upgradeable && load.status === 0);
        return finding({
          check: this,
          subject,
          harm: refused ? 'broken' : 'exposed',
          target: load.url,
          element: page.mentionsOf(load.url)[0]?.element,
          load,
          numbers: {
            upgradeable: upgradeable ? 1 : 0,
            refused: refused ? 1 : 0,
            thirdParty: isForeign(page, load.url) ? 1 : 0,
          },
          title: through
            ? `A redirect leads through http (${load.kind})`
            : `A script fetched over http (${load.kind}, ${refused ? 'refused' : 'let through'}${byWhom(page, load.url)})`,
          plain: mixedPlain(upgradeable && !refused, load.kind === 'image' ? 'picture' : load.kind),
        });
      });
  },
};
