import { finding, type Check } from '../finding';
import { isMixed, isUpgradeable, mixedPlain } from './mixedKinds';

/** A request over http that the load record shows and no source names: asked for by a script or on the way of a redirect. */
export const mixedLoad: Check = {
  id: 'mixed-load',
  concern: 'mixed',
  question: 'Did anything travel over http, or was it refused, while this https page loaded?',
  looksAt: 'Every request of the load record, redirect hops among them.',
  cannotSee: 'Requests that a visitor sets off later by scrolling or clicking.',
  fixedWhen: 'A new recording has no load over http, and nothing was refused.',
  examine(subject) {
    const { page } = subject;
    const named = new Set([
      ...page.mentions.map((m) => m.url),
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
          load,
          numbers: { upgradeable: upgradeable ? 1 : 0, refused: refused ? 1 : 0 },
          title: through
            ? `A redirect leads through http (${load.kind})`
            : `A script fetched over http (${load.kind}, ${refused ? 'refused' : 'let through'})`,
          plain: mixedPlain(upgradeable && !refused, load.kind === 'image' ? 'picture' : load.kind),
        });
      });
  },
};
