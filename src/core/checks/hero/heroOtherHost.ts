import type { Load } from '../../capture/capture';
import { fileName, hostOf, originOf } from '../../capture/url';
import { goesWithoutCredentials, listPreconnects, serves } from '../../load/credentials';
import type { Page } from '../../source/page';
import { finding, type Check } from '../finding';

/** The hero comes from a host that nothing has connected to before. */
export const heroOtherHost: Check = {
  id: 'hero-other-host',
  concern: 'hero',
  question: 'Does the hero need a new connection?',
  examines:
    'The host of the hero and of what it waits for, earlier requests to it, and preconnect hints in the head and in Link headers, with and without crossorigin.',
  cannotSee: 'Connections shared by several host names.',
  fixedWhen: 'The hero loads from the page’s host, or a preconnect to its host is early in the head.',
  harms: ['slow'],
  standard: 'HTML, 4.6.7.10 (preconnect); Fetch, 2.8 (connections)',
  change: 'Serve the hero from the page’s own host, or add <link rel=preconnect> to its host at the top of the head.',
  groupedBy: 'host',
  examine(subject) {
    const { hero, page } = subject;
    const hints = listPreconnects(page, (offset) => offset);
    const done = new Set([originOf(page.capture.page)]);
    return askedBy(page, hero.load).flatMap((load) => {
      const origin = originOf(load.url);
      if (done.has(origin)) return [];
      done.add(origin);
      const { dnsMs = 0, connectMs = 0, tlsMs = 0 } = load.timings;
      // A connection that was open, or being opened for somebody else, costs the hero nothing more.
      const before = page.capture.loads.some((l) => originOf(l.url) === origin && l.startMs < load.startMs - 1);
      if (before && connectMs <= 0) return [];
      const anonymous = goesWithoutCredentials(page, load);
      if (hints.some((hint) => serves(hint, origin, anonymous))) return [];
      const isHero = load === hero.load;
      const who = isHero ? 'The hero' : `The hero waits for ${fileName(load.url)}, which`;
      const wrongKind = hints.some((hint) => serves(hint, origin, !anonymous));
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: load.url,
          element: isHero ? hero.element : page.mentionsOf(load.url)[0]?.element,
          load,
          path: load.url,
          numbers: { dnsMs, connectMs, tlsMs },
          ...(wrongKind && { fault: 'wrong-kind' }),
          title: wrongKind
            ? `${who} cannot use the early connection to ${hostOf(load.url)}: its preconnect ${anonymous ? 'lacks' : 'should not have'} crossorigin`
            : isHero
              ? `The hero comes from ${hostOf(load.url)}, a host that nothing connects to earlier`
              : `The hero waits for ${fileName(load.url)} from ${hostOf(load.url)}, a host that nothing connects to earlier`,
          plain: wrongKind
            ? 'Files that are requested without cookies have connections of their own. The page opens the other kind early, and waits for a second one.'
            : 'The browser has to find another server and connect to it before it can request the main picture.',
        }),
      ];
    });
  },
};

/** The hero's load, and the loads that had to come before the browser could ask for it, last first. */
function askedBy(page: Page, load: Load | undefined): Load[] {
  const out: Load[] = [];
  for (let at = load; at && !out.includes(at) && out.length < 6;) {
    out.push(at);
    const by: string | undefined =
      at.initiator?.type === 'script' || at.initiator?.type === 'parser' ? at.initiator.url : undefined;
    at = by === undefined || by === page.capture.page ? undefined : page.loadOf(by);
  }
  return out;
}
