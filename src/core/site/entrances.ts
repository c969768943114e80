import { hostOf, isPlainHttp } from '../capture/url';

/** One request on the way from an entrance to where it ends. */
export interface ProbeHop {
  readonly url: string;
  /** HTTP status; 0 when no answer came. */
  readonly status: number;
  /**
   * How it leads on: an HTTP redirect (RFC 9110, 15.4), a meta refresh (HTML Standard, 4.2.5.3), or a script, where a
   * recording has shown that.
   */
  readonly kind: 'http' | 'meta' | 'script';
  /** Status 301 or 308. */
  readonly permanent: boolean;
  readonly ms: number;
  /** Where it leads, absolute; null for the end. */
  readonly location: string | null;
}

/** Why a way has no end. */
export type ProbeFault = 'refused' | 'certificate' | 'no answer' | 'loop';

/** What came back when an address was asked for, followed to where it ends. */
export interface Probe {
  /** The address as asked. */
  readonly from: string;
  readonly family: 'IPv4' | 'IPv6';
  readonly hops: readonly ProbeHop[];
  readonly end: { readonly url: string; readonly status: number } | null;
  readonly fault?: ProbeFault;
  /** What went wrong, for people. */
  readonly error?: string;
  /** The page at the end, as far as it tells pages apart. */
  readonly page?: ProbedPage;
}

/** What tells the page at the end of a way from others. */
export interface ProbedPage {
  readonly bodyHash: string;
  readonly textHash: string;
  readonly title: string;
  readonly canonical?: string;
}

/** An address that is asked for, and the page that it is a form of. */
export interface ProbeTarget {
  readonly from: string;
  /** Every address with the same one should end at one address. */
  readonly page: string;
  /** The address in the form in which it was given: it decides between two that both answer. */
  readonly given?: true;
  /** `list`: named by an outside list; it may have moved to another path. */
  readonly why: 'entrance' | 'deep' | 'slash' | 'query' | 'list';
}

export const VERDICTS = [
  'direct',
  'redirects properly',
  'temporary',
  'chain',
  'loop',
  'downgrade',
  'duplicate',
  'http only',
  'path lost',
  'missing',
  'refused',
  'certificate',
  'no answer',
] as const;
export type Verdict = (typeof VERDICTS)[number];

/** A probe with what it means. */
export interface Entrance extends Probe {
  readonly why: ProbeTarget['why'];
  readonly verdict: Verdict;
  readonly says: string;
}

/** Verdicts of an address that does what it should. */
export const isGood = (verdict: Verdict): boolean => verdict === 'direct' || verdict === 'redirects properly';

/** A parameter that no page knows: tells whether a redirect keeps the query. */
export const QUERY_PROBE = 'keen-lens=kept';

/** A host without `www.` in front. */
export const bareForm = (host: string): string => host.replace(/^www\./i, '');

/** A host with and without `www.`, the bare name first; an IP address has one form. */
export function hostForms(host: string): readonly string[] {
  if (/^[\d.]+$|^\[/.test(host) || !host.includes('.')) return [host];
  const bare = bareForm(host);
  return [bare, `www.${bare}`];
}

/**
 * Every way in that has to be asked for.
 * @param entrances addresses whose scheme and host are asked for in all forms; a host with `alone` only as it is
 * @param deep addresses of pages: asked for by http, with the other host form and the other trailing slash
 */
export function probeTargets(
  entrances: readonly { readonly url: string; readonly alone?: boolean }[],
  deep: readonly string[],
): ProbeTarget[] {
  const out = new Map<string, ProbeTarget>();
  const add = (target: ProbeTarget) => {
    const known = out.get(target.from);
    if (!known) out.set(target.from, target);
    else if (target.given && !known.given) out.set(target.from, { ...known, given: true });
  };
  for (const { url, alone } of entrances) {
    const at = new URL(url);
    const forms = alone ? [at.hostname] : hostForms(at.hostname);
    const page = pageKey(at);
    for (const host of forms)
      for (const scheme of ['http', 'https'])
        add({
          from: formOf(at, scheme, host),
          page,
          why: 'entrance',
          ...(isGiven(at, scheme, host) && { given: true }),
        });
  }
  for (const url of deep) {
    const at = new URL(url);
    const page = pageKey(at);
    const forms = hostForms(at.hostname);
    for (const host of forms)
      for (const scheme of ['http', 'https'])
        add({ from: formOf(at, scheme, host), page, why: 'deep', ...(isGiven(at, scheme, host) && { given: true }) });
    const slash = otherSlash(at);
    if (slash)
      for (const scheme of ['https', 'http']) add({ from: formOf(slash, scheme, at.hostname), page, why: 'slash' });
    if (at.search === '') {
      const asked = new URL(at);
      asked.search = QUERY_PROBE;
      for (const host of forms) add({ from: formOf(asked, 'http', host), page, why: 'query' });
    }
  }
  return [...out.values()];
}

const isGiven = (at: URL, scheme: string, host: string) => scheme === 'https' && host === at.hostname;

function formOf(at: URL, scheme: string, host: string): string {
  const own = at.protocol === `${scheme}:`;
  return `${scheme}://${host}${own && at.port ? `:${at.port}` : ''}${at.pathname}${at.search}`;
}

/** The page that an address is a form of: without scheme, `www.` and trailing slash. */
function pageKey(at: URL): string {
  return bareForm(at.host) + at.pathname.replace(/\/$/, '') + at.search;
}

/** The address with the other trailing slash; undefined for the home page and for files. */
function otherSlash(at: URL): URL | undefined {
  if (at.pathname === '/' || /\.[a-z0-9]{1,5}$/i.test(at.pathname)) return undefined;
  const out = new URL(at);
  out.pathname = at.pathname.endsWith('/') ? at.pathname.slice(0, -1) : `${at.pathname}/`;
  return out;
}

/** Judges what probes brought: each against the others of its page. Same order as given. */
export function judgeEntrances(targets: readonly ProbeTarget[], probes: readonly Probe[]): Entrance[] {
  const about = new Map(targets.map((t) => [t.from, t]));
  const pages = new Map<string, Asked[]>();
  for (const probe of probes) {
    const target = about.get(probe.from);
    if (!target) continue;
    const list = pages.get(target.page) ?? [];
    list.push({ target, probe });
    pages.set(target.page, list);
  }
  const truth = new Map([...pages].map(([page, list]) => [page, trueAddress(list)]));
  return probes.flatMap((probe) => {
    const target = about.get(probe.from);
    if (!target) return [];
    const judged = judge(
      probe,
      target,
      truth.get(target.page),
      (pages.get(target.page) ?? []).map((p) => p.probe),
    );
    return [{ ...probe, why: target.why, ...judged }];
  });
}

/** Judges one way in by what is known of other forms of its page; the same as `judgeEntrances`, for lists of many. */
export function judgeOne(
  target: ProbeTarget,
  probe: Probe,
  others: readonly Asked[],
): Pick<Entrance, 'verdict' | 'says'> {
  const all = others.length === 0 ? undefined : [{ target, probe }, ...others];
  const truth = all ? trueAddress(all) : secureEnd(probe);
  return judge(probe, target, truth, all ? all.map((a) => a.probe) : [probe]);
}

/** A target with what came back. */
export interface Asked {
  readonly target: ProbeTarget;
  readonly probe: Probe;
}

function secureEnd(probe: Probe): TrueAddress | undefined {
  return answers(probe) && probe.end && !isPlainHttp(probe.end.url)
    ? { url: probe.end.url, page: probe.page }
    : undefined;
}

/** The one address at which all forms of a page should end, with its probe. */
interface TrueAddress {
  readonly url: string;
  readonly page?: ProbedPage;
}

const answers = (p: Probe) => p.end !== null && p.end.status >= 200 && p.end.status < 300;

function trueAddress(list: readonly Asked[]): TrueAddress | undefined {
  const secure = list.filter(
    (l) => answers(l.probe) && !isPlainHttp(l.probe.end?.url ?? '') && l.target.why !== 'query',
  );
  const given = secure.find((l) => l.target.given) ?? undefined;
  const counts = new Map<string, number>();
  for (const l of secure) counts.set(l.probe.end?.url ?? '', (counts.get(l.probe.end?.url ?? '') ?? 0) + 1);
  const common = [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
  const first = given ?? secure.find((l) => l.probe.end?.url === common);
  const named = first?.probe.page?.canonical;
  const chosen = (named !== undefined && secure.find((l) => l.probe.end?.url === named)) || first;
  return chosen?.probe.end ? { url: chosen.probe.end.url, page: chosen.probe.page } : undefined;
}

/** True when two answers show one page. */
function samePage(a: ProbedPage | undefined, b: ProbedPage | undefined): boolean {
  if (!a || !b) return false;
  return a.bodyHash === b.bodyHash || a.textHash === b.textHash || (a.title !== '' && a.title === b.title);
}

type Judged = Pick<Entrance, 'verdict' | 'says'>;

function judge(probe: Probe, target: ProbeTarget, truth: TrueAddress | undefined, all: readonly Probe[]): Judged {
  const redirects = probe.hops.filter((h) => h.location !== null);
  const down = redirects.find((h) => !isPlainHttp(h.url) && isPlainHttp(h.location ?? ''));
  const codes = redirects.map(howItLeads).join(', ');
  const after =
    redirects.length === 0
      ? ''
      : ` after ${redirects.length === 1 ? 'a redirect' : `${redirects.length} redirects`} (${codes})`;
  if (probe.fault === 'loop')
    return { verdict: 'loop', says: `${cap(probe.error ?? 'the redirects never end')}${after}.` };
  if (down)
    return {
      verdict: 'downgrade',
      says: `${down.url} redirects from https to http (${howItLeads(down)}): visitors leave the secure connection.`,
    };
  if (probe.fault || !probe.end) {
    const last = probe.hops.at(-1)?.url ?? probe.from;
    const where = last === probe.from ? '' : ` at ${last}`;
    return { verdict: probe.fault ?? 'no answer', says: `${cap(probe.error ?? 'no answer')}${where}${after}.` };
  }
  const { url, status } = probe.end;
  if (status >= 400 || status < 200)
    return { verdict: 'missing', says: `Responds with ${status}${after}: there is no page.` };
  if (isPlainHttp(url)) {
    const twin = all.find((p) => answers(p) && !isPlainHttp(p.end?.url ?? '') && samePage(p.page, probe.page));
    if (twin)
      return {
        verdict: 'duplicate',
        says: `Responds with ${status} over http${after} without a redirect to https, although ${twin.end?.url ?? ''} shows the same page.`,
      };
    return {
      verdict: 'http only',
      says: `Responds with ${status} over http${after}; ${truth ? `${truth.url} shows another page` : 'no https:// URL of it works'}.`,
    };
  }
  const lost = lostOnTheWay(probe.from, url, target, truth);
  if (lost) return { verdict: 'path lost', says: `${lost}${after}.` };
  if (redirects.length === 0) {
    if (!truth || url === truth.url) return { verdict: 'direct', says: `Responds with ${status} itself.` };
    return {
      verdict: 'duplicate',
      says: `Responds with ${status} itself instead of redirecting to ${truth.url}, which ${samePage(probe.page, truth.page) ? 'shows the same page' : 'shows another page'}.`,
    };
  }
  const temporary = redirects.filter((h) => !h.permanent);
  if (temporary.length > 0)
    return {
      verdict: 'temporary',
      says: `Reaches ${url} through ${redirects.length === 1 ? 'a temporary redirect' : `${redirects.length} redirects, ${temporary.length} of them temporary`} (${codes}): use one 301 or 308.`,
    };
  if (redirects.length > 1)
    return {
      verdict: 'chain',
      says: `Reaches ${url} only after ${redirects.length} redirects (${codes}): one is enough.`,
    };
  return { verdict: 'redirects properly', says: `One permanent redirect (${codes}) to ${url}.` };
}

/** How a hop leads on, for people: the status of a redirect, or what else does. */
export const howItLeads = (hop: ProbeHop): string =>
  hop.kind === 'meta' ? 'meta refresh' : hop.kind === 'script' ? 'script, as recorded' : String(hop.status);

const cap = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
const INDEX = /\/(index|default|home)\.[a-z]{3,5}$/i;

/** Says what of an address a way to another host, path or query has lost; undefined when nothing is. */
function lostOnTheWay(
  from: string,
  end: string,
  target: ProbeTarget,
  truth: TrueAddress | undefined,
): string | undefined {
  // Nothing but the scheme has changed.
  if (end === from || end === from.replace(/^http:/, 'https:')) return undefined;
  const a = new URL(from);
  const b = new URL(end);
  const plain = (path: string) => path.replace(INDEX, '/').replace(/\/$/, '').toLowerCase();
  if (b.pathname === '/' && plain(a.pathname) !== '') return `Ends on the home page ${end} instead of its own page`;
  const known = truth === undefined ? undefined : new URL(truth.url);
  const samePath = plain(a.pathname) === plain(b.pathname);
  const truePath = known !== undefined && plain(known.pathname) === plain(b.pathname);
  if (!samePath && !truePath) return `Ends on another page, ${end}`;
  if (target.why === 'list') return undefined;
  const wanted =
    target.why === 'query' || known === undefined || !truePath ? a.search : known.search || (samePath ? a.search : '');
  if (wanted !== '' && !keepsQuery(wanted, b.search)) return `Loses the query ${wanted} on the way to ${end}`;
  if (known && bareForm(known.host) !== bareForm(b.host) && bareForm(hostOf(from)) !== bareForm(b.hostname))
    return `Ends on another host, ${end}`;
  return undefined;
}

function keepsQuery(wanted: string, got: string): boolean {
  const have = new URLSearchParams(got);
  return [...new URLSearchParams(wanted)].every(([name, value]) => have.getAll(name).includes(value));
}
