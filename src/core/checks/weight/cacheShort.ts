import type { Load } from '../../capture/capture';
import { cachePolicy, type StatedPolicy } from '../../source/cachePolicy';
import { fileName, hostOf } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';

const KINDS = new Set(['style', 'script', 'image', 'font']);

/** A name that changes with the content: it may be kept for ever. */
export function isFingerprinted(url: string): boolean {
  const name = url.split(/[?#]/)[0]?.split('/').at(-1) ?? '';
  return /[.-][0-9a-f]{8,}\.[a-z0-9]+$/i.test(name) && /\d/.test(name);
}

/** Files that come again on the next visit although they need not. */
export const cacheShort: Check = {
  id: 'cache-short',
  concern: 'weight',
  question: 'Are files cached for the next visit?',
  examines: 'Cache-Control, Expires, ETag and Last-Modified of styles, scripts, pictures and fonts (RFC 9111).',
  cannotSee: 'First visits: caching only changes later ones. Service workers. Captures without headers.',
  fixedWhen: 'The responses have a max-age of a week or more, with immutable for names that change with the content.',
  harms: ['tidy'],
  standard: 'RFC 9111, 4.2 and 5.2; RFC 8246',
  change:
    'Send Cache-Control: max-age of a year with immutable for fingerprinted names, a week or more for the rest, and a validator.',
  groupedBy: 'host',
  thresholds: [
    {
      id: 'freshS',
      name: 'max-age at least',
      unit: 's',
      value: 7 * 86_400,
      why: 'Most returning visitors return within a week.',
    },
  ],
  examine(subject) {
    // One server setting is the cause for many files: they are told together.
    const groups = new Map<string, { host: string; why: string; loads: Load[]; freshS: number }>();
    for (const load of subject.page.capture.loads) {
      if (!KINDS.has(load.kind) || load.status !== 200 || load.method !== 'GET' || load.headersUnseen) continue;
      const policy = cachePolicy(load);
      const why = reason(policy, isFingerprinted(load.url), limitOf(this, subject, 'freshS'));
      if (why === undefined) continue;
      const host = hostOf(load.url);
      const group = groups.get(`${host} ${why}`) ?? { host, why, loads: [], freshS: policy.freshS ?? -1 };
      group.loads.push(load);
      groups.set(`${host} ${why}`, group);
    }
    return [...groups.values()].map(({ host, why, loads, freshS }) => {
      const [first] = loads;
      const one = loads.length === 1 && first;
      return finding({
        check: this,
        subject,
        harm: 'tidy',
        target: one ? first.url : `${new URL(first?.url ?? '').origin}/*`,
        load: first,
        files: loads,
        path: `${host} ${why}`,
        fault: why,
        numbers: { files: loads.length, bytes: loads.reduce((n, l) => n + l.bodyBytes, 0), freshS },
        title: `${one ? `${fileName(first.url)} of ${host}` : `${loads.length} files of ${host}: each`} ${why}`,
        plain: 'Visitors who come back, or open a second page, load or revalidate these files again.',
      });
    });
  },
};

function reason(policy: StatedPolicy, fingerprinted: boolean, shortS: number): string | undefined {
  if (!policy.mayStore) return 'is never cached (no-store)';
  if (policy.freshS === undefined)
    return policy.validator ? 'does not state a cache lifetime' : 'states no cache lifetime and has no validator';
  if (policy.freshS < shortS) {
    const days = policy.freshS / 86_400;
    const time =
      policy.freshS === 0
        ? 'is revalidated on each visit'
        : `is cached for only ${days < 1 ? `${Math.round(policy.freshS / 360) / 10} h` : `${Math.round(days)} ${Math.round(days) === 1 ? 'day' : 'days'}`}`;
    return policy.validator ? time : `${time}, and has no validator`;
  }
  return fingerprinted && !policy.immutable ? 'has a fingerprinted name, but is not immutable' : undefined;
}
