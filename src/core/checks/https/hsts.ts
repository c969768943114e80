import { header } from '../../capture/capture';
import { hostOf, isLoopbackHost } from '../../capture/url';
import type { Harm } from '../concern';
import { finding, limitOf, type Check } from '../finding';

/** What Strict-Transport-Security says (RFC 6797, 6.1); undefined when it says nothing that counts. */
export function readHsts(value: string | undefined): { maxAgeS: number; subdomains: boolean } | undefined {
  const age = /(?:^|;)\s*max-age\s*=\s*"?(\d+)"?/i.exec(value ?? '')?.[1];
  if (age === undefined) return undefined;
  return { maxAgeS: Number(age), subdomains: /(?:^|;)\s*includeSubDomains\s*(?:;|$)/i.test(value ?? '') };
}

/** Browsers are not told to come back by https only. */
export const hsts: Check = {
  id: 'hsts',
  concern: 'https',
  question: 'Does this host set HSTS?',
  examines: 'Strict-Transport-Security in the response of the page.',
  cannotSee: 'Whether the host is on the preload list of browsers; other hosts of the site.',
  fixedWhen: 'The https response has Strict-Transport-Security with a max-age of half a year or more.',
  harms: ['exposed', 'tidy'],
  standard: 'RFC 6797, 6.1 and 7.2',
  change: 'Send Strict-Transport-Security: max-age=31536000; includeSubDomains with every https response.',
  groupedBy: 'host',
  thresholds: [
    {
      id: 'maxAgeS',
      name: 'max-age at least',
      unit: 's',
      value: 15_552_000,
      why: 'Half a year: visitors who return less often are not protected anyway.',
    },
  ],
  examine(subject) {
    const { capture } = subject.page;
    const load = capture.loads[capture.documentIndex];
    const host = hostOf(capture.page);
    // A capture without headers cannot tell.
    if (!load?.url.startsWith('https:') || load.status !== 200 || load.responseHeaders.length < 2) return [];
    if (isLoopbackHost(host)) return [];
    const said = readHsts(header(load.responseHeaders, 'strict-transport-security'));
    const days = Math.round((said?.maxAgeS ?? 0) / 86_400);
    const [harm, what]: [Harm, string] | [undefined, ''] =
      !said || said.maxAgeS === 0
        ? ['exposed', 'does not set HSTS']
        : said.maxAgeS < limitOf(this, subject, 'maxAgeS')
          ? ['tidy', `sets HSTS for only ${days} ${days === 1 ? 'day' : 'days'}`]
          : said.subdomains
            ? [undefined, '']
            : ['tidy', 'does not set HSTS for its subdomains'];
    if (!harm) return [];
    return [
      finding({
        check: this,
        subject,
        harm,
        target: load.url,
        load,
        fault: what.split(' for ')[0],
        numbers: { maxAgeS: said?.maxAgeS ?? 0, includeSubDomains: said?.subdomains ? 1 : 0 },
        title: `${host} ${what}`,
        plain: 'Visitors who type the name without https load the http:// URL first, where others can intercept them.',
      }),
    ];
  },
};
