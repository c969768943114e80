import { bareForm, judgeOne, type Asked, type Probe, type ProbeHop, type Verdict } from './entrances';
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
  'not asked': 'Not checked yet',
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

/** One address of a list with how many of its rows name it. */
export interface FoldedRow extends ListedAddress {
  readonly rows: number;
}

/** Rows of a list by address: clicks and impressions added up, position as their mean by impressions. */
export function foldRows(rows: readonly ListedAddress[]): FoldedRow[] {
  const byAddress = new Map<string, { first: ListedAddress; more?: ListedAddress[] }>();
  for (const row of rows) {
    const at = byAddress.get(row.address);
    if (!at) byAddress.set(row.address, { first: row });
    else (at.more ??= []).push(row);
  }
  const out: FoldedRow[] = [];
  for (const { first, more } of byAddress.values()) {
    if (!more) {
      out.push({ ...first, rows: 1 });
      continue;
    }
    const all = [first, ...more];
    const sum = (key: 'clicks' | 'impressions') =>
      all.some((r) => r[key] !== undefined) ? all.reduce((n, r) => n + (r[key] ?? 0), 0) : undefined;
    const placed = all.filter((r) => r.position !== undefined);
    const weight = placed.reduce((n, r) => n + (r.impressions ?? 1), 0);
    out.push({
      ...first,
      clicks: sum('clicks'),
      impressions: sum('impressions'),
      position:
        weight > 0 ? placed.reduce((n, r) => n + (r.position ?? 0) * (r.impressions ?? 1), 0) / weight : first.position,
      rows: all.length,
    });
  }
  return out;
}

/** What is known of an address: an answer, or why it was not asked. */
export type Known = (address: string) => Probe | 'robots' | undefined;

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
  const nearest = new NearestPages(living);
  const found = foldRows(rows).map((row): FateRow => {
    const { address, clicks, impressions, position, title, state } = row;
    const base = { address, clicks, impressions, position, title, state, rows: row.rows };
    const silent = { ...base, hops: [], end: null, nearest: null };
    if (!own(address)) return { ...silent, fate: 'other host', says: 'Belongs to another site.' };
    const probe = known(address);
    if (probe === 'robots')
      return {
        ...silent,
        fate: 'not asked',
        says: 'robots.txt asks not to request this URL; a setting of the site ignores it.',
      };
    if (!probe) return { ...silent, fate: 'not asked', says: 'This URL has not been requested yet.' };
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
  // Fate by fate: comparing fates over and over costs more than putting rows apart.
  const byFate = new Map<Fate, FateRow[]>();
  for (const row of found) {
    const list = byFate.get(row.fate);
    if (list) list.push(row);
    else byFate.set(row.fate, [row]);
  }
  const groups: { fate: Fate; count: number }[] = [];
  const sorted: FateRow[] = [];
  for (const fate of FATES) {
    const list = byFate.get(fate);
    if (!list) continue;
    groups.push({ fate, count: list.length });
    list.sort((a, b) => (b.clicks ?? 0) - (a.clicks ?? 0) || (a.address < b.address ? -1 : 1));
    for (const row of list) sorted.push(row);
  }
  return { total: sorted.length, groups, rows: sorted };
}

/** An address by itself: a listed page may have moved, so another path at the end is no fault. */
function judgeListed(address: string, probe: Probe, known: Known, home: string): { verdict: Verdict; says: string } {
  const others: Asked[] = [];
  for (const other of otherForms(address, home)) {
    const answer = known(other);
    // The form on the site's own host decides between two that both answer.
    if (answer && answer !== 'robots')
      others.push({
        target: { from: other, page: address, why: 'list', given: true },
        probe: { ...answer, from: other },
      });
  }
  return judgeOne({ from: address, page: address, why: 'list' }, probe, others);
}

const originPart = (url: string) => {
  const end = url.indexOf('/', 8);
  return end < 0 ? url : url.slice(0, end);
};

/** The form that an address should have: https, on the host of the site's home. None for an address that has it. */
export function otherForms(address: string, home: string): string[] {
  // Most addresses have it, and taking addresses apart by the hundred thousand is slow.
  if (address.startsWith('https:') && home.startsWith('https:') && originPart(address) === originPart(home)) return [];
  const at = new URL(address);
  const main = new URL(home);
  const same = bareForm(at.hostname) === bareForm(main.hostname);
  if (at.protocol === 'https:' && (!same || at.hostname === main.hostname)) return [];
  const host = same ? main.host : at.hostname;
  return [`https://${host}${at.pathname}${at.search}`];
}
