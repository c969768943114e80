import { isThirdParty } from '../../capture/site';
import type { Load } from '../../capture/capture';
import { fileName, hostOf } from '../../capture/url';
import type { SourceElement } from '../../source/document';
import type { Page } from '../../source/page';
import { finding, type Check, type Finding, type Subject } from '../finding';
import { byWhom, isMixed, isUpgradeable, masksMixed, mixedPlain } from './mixedKinds';

/** A request over http that the load record shows and no source names: asked for by a script or on the way of a redirect. */
export const mixedLoad: Check = {
  id: 'mixed-load',
  concern: 'mixed',
  question: 'Was anything requested over http, or blocked, while this https page loaded?',
  examines:
    'Every request of the load record, redirect hops among them; http:// URLs in scripts that the browser requested over https instead; WebSocket addresses in scripts.',
  cannotSee: 'Requests that start later, by scrolling or clicking.',
  fixedWhen: 'A new recording has no request over http, and nothing was blocked.',
  harms: ['broken', 'exposed', 'tidy'],
  standard: 'Mixed Content, 4.1 and 4.3',
  change: 'Use https:// in the script, or in the redirect that points to http.',
  examine(subject) {
    const { page } = subject;
    const named = new Set([
      ...page.mentions.filter((m) => m.use === 'load').map((m) => m.url),
      ...page.styles.flatMap((s) => s.references.map((r) => r.url)),
    ]);
    const asked = new Set(page.capture.loads.map((l) => l.url));
    const tell = (target: string, load: Load, refused: boolean, title: string, by?: SourceElement): Finding => {
      const upgradeable = isUpgradeable(page, { url: target, kind: load.kind });
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
    const scripts = scriptsWith(page, 'http://');
    return [...sockets(this, subject), ...page.capture.loads.flatMap(ofLoad)];
    function ofLoad(load: Load): Finding[] {
      if (load.kind === 'document') return [];
      if (isMixed(page, load.url) && !named.has(load.url)) {
        const refused = load.mixedBlocked ?? (!isUpgradeable(page, load) && load.status === 0);
        const through = page.capture.loads.some((l) => l.redirectTo === load.url);
        const title = through
          ? `A redirect goes through http (${load.kind})`
          : `A script fetched over http (${load.kind}, ${refused ? 'blocked' : 'allowed'}${byWhom(page, load.url)})`;
        return [tell(load.url, load, refused, title)];
      }
      const target = load.redirectTo;
      if (target !== undefined && isMixed(page, target) && !asked.has(target))
        return [tell(target, load, false, `A redirect goes through http (${load.kind}); the browser used https`)];
      const plain = load.url.replace(/^https:/, 'http:');
      if (plain === load.url || named.has(load.url) || named.has(plain)) return [];
      const script = scripts.find((s) => s.text.includes(plain));
      return script
        ? [
            tell(
              plain,
              load,
              false,
              `A script requests ${fileName(plain)} over http (${load.kind}, upgraded${byWhom(page, plain)})`,
              script.element,
            ),
          ]
        : [];
    }
  },
};

/** WebSockets that scripts open without TLS: browsers refuse them, and no load shows it (WebSockets, 3.1). */
function sockets(check: Check, subject: Subject): Finding[] {
  const { page } = subject;
  const masked = masksMixed(page);
  const done = new Set<string>();
  return scriptsWith(page, 'ws://').flatMap(({ text, element, load }) =>
    !text.includes('WebSocket')
      ? []
      : [...text.matchAll(/(["'`])(ws:\/\/[^"'`\s\\]+)\1/g)].flatMap(({ 2: url = '' }) => {
          if (done.has(url) || !isMixed(page, url)) return [];
          done.add(url);
          return [
            finding({
              check,
              subject,
              harm: masked ? 'tidy' : 'broken',
              target: url,
              element,
              load,
              path: url,
              numbers: { refused: masked ? 0 : 1, thirdParty: isThirdParty(page, url) ? 1 : 0 },
              title: `A script opens a WebSocket without TLS: ${hostOf(url)}${byWhom(page, url)}${masked ? ', masked by upgrade-insecure-requests' : ''}`,
              plain: masked
                ? 'A policy makes browsers use a secure connection; the URL itself is still wrong.'
                : 'Browsers refuse this connection: what it should show or send is missing for every visitor.',
            }),
          ];
        }),
  );
}

/** Scripts whose text holds some address. */
function scriptsWith(page: Page, scheme: string): { text: string; element?: SourceElement; load?: Load }[] {
  const out: { text: string; element?: SourceElement; load?: Load }[] = [];
  for (const { element, mode } of page.scripts)
    if (mode === 'inline' && element.text?.includes(scheme)) out.push({ text: element.text, element });
  for (const load of page.capture.loads) {
    const text = load.kind === 'script' ? page.bodies.text(load) : undefined;
    if (text?.includes(scheme)) out.push({ text, load });
  }
  return out;
}
