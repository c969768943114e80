import { isThirdParty } from '../../capture/site';
import type { Load } from '../../capture/capture';
import { fileName } from '../../capture/url';
import type { SourceElement } from '../../source/document';
import type { Page } from '../../source/page';
import { finding, type Check, type Finding } from '../finding';
import { byWhom, isMixed, isUpgradeable, mixedPlain } from './mixedKinds';

/** A request over http that the load record shows and no source names: asked for by a script or on the way of a redirect. */
export const mixedLoad: Check = {
  id: 'mixed-load',
  concern: 'mixed',
  question: 'Did anything travel over http, or was it refused, while this https page loaded?',
  looksAt:
    'Every request of the load record, redirect hops among them; http addresses in scripts that the browser asked for over https instead.',
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
    const asked = new Set(page.capture.loads.map((l) => l.url));
    const tell = (target: string, load: Load, refused: boolean, title: string, by?: SourceElement): Finding => {
      const upgradeable = isUpgradeable(load.kind);
      return finding({
        check: this,
        subject,
        harm: refused ? 'broken' : 'exposed',
        target,
        element: by ?? page.mentionsOf(target)[0]?.element,
        load,
        numbers: {
          upgradeable: upgradeable ? 1 : 0,
          refused: refused ? 1 : 0,
          thirdParty: isThirdParty(page, target) ? 1 : 0,
        },
        title,
        plain: mixedPlain(upgradeable && !refused, load.kind === 'image' ? 'picture' : load.kind),
      });
    };
    const scripts = scriptsWithHttp(page);
    return page.capture.loads.flatMap((load) => {
      if (load.kind === 'document') return [];
      if (isMixed(page, load.url) && !named.has(load.url)) {
        const refused = load.mixedBlocked ?? (!isUpgradeable(load.kind) && load.status === 0);
        const through = page.capture.loads.some((l) => l.redirectTo === load.url);
        const title = through
          ? `A redirect leads through http (${load.kind})`
          : `A script fetched over http (${load.kind}, ${refused ? 'refused' : 'let through'}${byWhom(page, load.url)})`;
        return [tell(load.url, load, refused, title)];
      }
      const target = load.redirectTo;
      if (target !== undefined && isMixed(page, target) && !asked.has(target))
        return [
          tell(target, load, false, `A redirect leads through http (${load.kind}); the browser went on over https`),
        ];
      const plain = load.url.replace(/^https:/, 'http:');
      if (plain === load.url || named.has(load.url) || named.has(plain)) return [];
      const script = scripts.find((s) => s.text.includes(plain));
      return script
        ? [
            tell(
              plain,
              load,
              false,
              `A script asks for ${fileName(plain)} over http (${load.kind}, upgraded${byWhom(page, plain)})`,
              script.element,
            ),
          ]
        : [];
    });
  },
};

/** Scripts whose text holds any http address. */
function scriptsWithHttp(page: Page): { text: string; element?: SourceElement }[] {
  const out: { text: string; element?: SourceElement }[] = [];
  for (const { element, mode } of page.scripts)
    if (mode === 'inline' && element.text?.includes('http://')) out.push({ text: element.text, element });
  for (const load of page.capture.loads) {
    const text = load.kind === 'script' ? page.bodies.text(load) : undefined;
    if (text?.includes('http://')) out.push({ text });
  }
  return out;
}
