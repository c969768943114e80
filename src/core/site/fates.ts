import { bareForm, judgeEntrances, type Probe, type ProbeHop, type ProbeTarget, type Verdict } from './entrances';
import type { ListedAddress } from './lists/outsideList';
import { isPlainHttp } from '../capture/url';
import { NearestPages, type LivingPage } from './nearest';

/** What happens to a listed address today: a verdict, or what is no fault of the site. */
export type Fate = Verdict | 'history' | 'other host' | 'not asked';

/** Fates in the order in which they need work. */
export const FATES: readonly Fate[] = [
  'loop',
  'downgrade',
  'certificate',
  'missing',
  'no answer',
  'refused',
  'http only',
  'path lost',
  'duplicate',
  'temporary',
  'chain',
  'redirects properly',
  'history',
  'direct',
  'other host',
  'not asked',
];

/** What each fate means, in words. */
export const FATE_MEANS: Readonly<Record<Fate, string>> = {
  loop: 'Its redirects never end',
  downgrade: 'A redirect leads from https to http',
  certificate: 'The certificate is not accepted',
  missing: 'There is no page any more',
  'no answer': 'No answer came',
  refused: 'The server refuses the connection',
  'http only': 'Responds over http without a redirect',
  'path lost': 'Sent to another page, most often the home page',
  duplicate: 'Responds besides the secure address with the same page',
  temporary: 'Redirected, but only temporarily',
  chain: 'Redirected more than once',
  'redirects properly': 'One permanent redirect',
  history: 'An old http:// URL that redirects properly: nothing to do',
  direct: 'Live and secure',
  'other host': 'Belongs to another site',
  'not asked': 'Not asked for yet',
};

/** Fates that ask for work. */
export const needsWork = (fate: Fate): boolean => FATES.indexOf(fate) < FATES.indexOf('redirects properly');

/** One listed address with its fate; several rows of a list are added up. */
export interface FateRow {
  readonly address: string;
  readonly fate: Fate;
  readonly says: string;
  readonly hops: readonly ProbeHop[];
  readonly end: Probe['end'];
  /** The nearest living page of one that is missing. */
  readonly nearest: { readonly url: string; readonly why: string } | null;
  readonly clicks?: number;
  readonly impressions?: number;
  readonly position?: number;
  readonly title?: string;
  readonly state?: string;
  /** Rows of the list that name it. */
  readonly rows: number;
}

export interface FateReport {
  readonly total: number;
  readonly groups: readonly { readonly fate: Fate; readonly count: number }[];
  readonly rows: readonly FateRow[];
}

/** Rows of a list by address: clicks and impressions added up, position as their mean by impressions. */
export function foldRows(rows: readonly ListedAddress[]): ListedAddress[] {
  const byAddress = new Map<
    string,
    { first: ListedAddress; clicks?: number; impressions?: number; weighed: number; weight: number }
  >();
  for (const row of rows) {
    const at = byAddress.get(row.address) ?? { first: row, weighed: 0, weight: 0 };
    if (row.clicks !== undefined) at.clicks = (at.clicks ?? 0) + row.clicks;
    if (row.impressions !== undefined) at.impressions = (at.impressions ?? 0) + row.impressions;
    if (row.position !== undefined) {
      const weight = row.impressions ?? 1;
      at.weighed += row.position * weight;
      at.weight += weight;
    }
    byAddress.set(row.address, at);
  }
  return [...byAddress].map(([address, a]) => ({
    ...a.first,
    address,
    clicks: a.clicks,
    impressions: a.impressions,
    position: a.weight > 0 ? a.weighed / a.weight : a.first.position,
  }));
}

/** What is known of an address: an answer, or why it was not asked. */
export type Known = (address: string) => Probe | undefined;

/**
 * The fate of every listed address.
 * @param site `home` is the address at which its home page really is; `own` tells which addresses belong to it
 * @param known what came back for an address, and for the form that it should have (`otherForms`)
 * @param living pages of the site that answer 200, for those that are missing
 */
export function fatesOf(
  rows: readonly ListedAddress[],
  site: { readonly home: string; readonly own: (url: string) => boolean },
  known: Known,
  living: readonly LivingPage[],
): FateReport {
  const { home, own } = site;
  const counts = new Map<string, number>();
  for (const r of rows) counts.set(r.address, (counts.get(r.address) ?? 0) + 1);
  const nearest = new NearestPages(living);
  const found = foldRows(rows).map((row): FateRow => {
    const { address, clicks, impressions, position, title, state } = row;
    const base = { address, clicks, impressions, position, title, state, rows: counts.get(address) ?? 1 };
    const silent = { ...base, hops: [], end: null, nearest: null };
    if (!own(address)) return { ...silent, fate: 'other host', says: 'Belongs to another site.' };
    const probe = known(address);
    if (!probe) return { ...silent, fate: 'not asked', says: 'Nobody has asked for this URL yet.' };
    const { verdict, says } = judgeListed(address, probe, known, home);
    const fate: Fate = verdict === 'redirects properly' && isPlainHttp(address) ? 'history' : verdict;
    const lost = fate === 'missing' || fate === 'path lost';
    return {
      ...base,
      fate,
      says: fate === 'history' ? `${says} Tools that report it as failing show an old state.` : says,
      hops: probe.hops,
      end: probe.end,
      nearest: lost ? (nearest.of(address, title) ?? null) : null,
    };
  });
  const sorted = found.sort(
    (a, b) =>
      FATES.indexOf(a.fate) - FATES.indexOf(b.fate) ||
      (b.clicks ?? 0) - (a.clicks ?? 0) ||
      a.address.localeCompare(b.address),
  );
  const groups = FATES.map((fate) => ({ fate, count: sorted.filter((r) => r.fate === fate).length })).filter(
    (g) => g.count > 0,
  );
  return { total: sorted.length, groups, rows: sorted };
}

/** An address by itself: a listed page may have moved, so another path at the end is no fault. */
function judgeListed(address: string, probe: Probe, known: Known, home: string): { verdict: Verdict; says: string } {
  const targets: ProbeTarget[] = [{ from: address, page: address, why: 'list' }];
  const probes = [probe];
  for (const other of otherForms(address, home)) {
    const answer = known(other);
    if (!answer) continue;
    // The form on the site's own host decides between two that both answer.
    targets.push({ from: other, page: address, why: 'list', given: true });
    probes.push({ ...answer, from: other });
  }
  const [judged] = judgeEntrances(targets, probes);
  if (!judged) throw new Error('nothing was judged');
  return judged;
}

/** The form that an address should have: https, on the host of the site's home. None for an address that has it. */
export function otherForms(address: string, home: string): string[] {
  const at = new URL(address);
  const main = new URL(home);
  const same = bareForm(at.hostname) === bareForm(main.hostname);
  if (at.protocol === 'https:' && (!same || at.hostname === main.hostname)) return [];
  const host = same ? main.host : at.hostname;
  return [`https://${host}${at.pathname}${at.search}`];
}
