import { hostOf, isLoopbackHost, isPlainHttp } from '../../capture/url';
import { finding, type Check } from '../finding';

/** A way in over plain http that does not lead to https in one permanent hop (RFC 9110 15.4; HSTS RFC 6797). */
export const httpEntrance: Check = {
  id: 'http-entrance',
  concern: 'https',
  question: 'Does the entrance of this page lead to https in one permanent redirect?',
  examines: 'The redirect hops of the page as recorded, and the scheme it ended on.',
  cannotSee: 'Entrances that were not recorded: other hosts, other forms of the URL.',
  fixedWhen: 'The http:// URL responds with one 301 or 308 to the https page.',
  harms: ['exposed'],
  standard: 'RFC 9110, 15.4; RFC 6797, 7.2',
  change: 'Redirect http with one 301 or 308 to the https:// URL of the same page; never redirect from https to http.',
  examine(subject) {
    const { capture } = subject.page;
    const hops = capture.loads.slice(0, capture.documentIndex).filter((l) => l.kind === 'document' && l.redirectTo);
    const last = capture.loads[capture.documentIndex];
    if (!last || isLoopbackHost(hostOf(last.url))) return [];
    if (isPlainHttp(last.url)) {
      return [
        finding({
          check: this,
          subject,
          harm: 'exposed',
          target: last.url,
          load: last,
          title: 'The page is served over http without a redirect to https',
          plain: 'Anybody on the network can read and change this page; browsers mark it as not secure.',
        }),
      ];
    }
    const down = hops.find((h) => h.url.startsWith('https:') && isPlainHttp(h.redirectTo ?? ''));
    if (down) {
      return [
        finding({
          check: this,
          subject,
          harm: 'exposed',
          target: down.url,
          load: down,
          numbers: { hops: hops.length },
          title: `The entrance redirects from https back to http (${down.status}, ${hostOf(down.url)})`,
          plain: 'Visitors of the secure URL are sent to the insecure one, where others can read and change the page.',
        }),
      ];
    }
    const first = hops[0];
    if (!first || !hops.some((h) => isPlainHttp(h.url))) return [];
    const temporary = hops.filter((h) => h.status !== 301 && h.status !== 308);
    if (hops.length === 1 && temporary.length === 0) return [];
    const waitedMs = Math.round(hops.reduce((sum, h) => sum + (h.endMs - h.startMs), 0));
    const codes = hops.map((h) => h.status).join(', ');
    const what = [
      hops.length > 1 ? `${hops.length} hops` : '',
      temporary.length > 0 ? `temporary redirects (${codes})` : '',
    ]
      .filter(Boolean)
      .join(' and ');
    return [
      finding({
        check: this,
        subject,
        harm: 'exposed',
        target: first.url,
        load: first,
        numbers: { hops: hops.length, waitedMs },
        title: `The http entrance reaches https through ${what}`,
        plain: `Visitors who type the address wait for ${hops.length} redirect${hops.length > 1 ? 's' : ''} first; ${temporary.length > 0 ? 'browsers and search engines do not remember a temporary redirect' : 'one is enough'}.`,
      }),
    ];
  },
};
