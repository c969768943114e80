import { InputError } from '../../capture/errors';
import { bareForm, hostForms } from '../../site/entrances';

/** What somebody chose for an address that is missing. */
export interface ChosenTarget {
  readonly from: string;
  /** Empty leaves it missing; `gone` answers 410. */
  readonly to: string;
}

/** One page that moves: path and query of its old address. */
export interface MovedPage {
  /** Path and query as a browser sends them. */
  readonly from: string;
  /** Absolute. */
  readonly to: string;
  readonly reason: string;
}

/** A whole folder that moves: what comes after `from` comes after `to`. */
export interface MovedFolder {
  /** Path with a slash at both ends. */
  readonly from: string;
  /** Absolute, with a slash at the end. */
  readonly to: string;
  readonly pages: number;
  readonly reason: string;
}

/** Redirect rules before they are written for a server. */
export interface RedirectPlan {
  /** The one origin that pages are at, for example `https://www.fernhollow.example`. */
  readonly origin: string;
  /** Every host form whose requests the rules are for. */
  readonly hosts: readonly string[];
  /** Why all host forms and http lead to the origin; undefined when they do so already. */
  readonly canonical?: string;
  readonly pages: readonly MovedPage[];
  readonly folders: readonly MovedFolder[];
  /** Paths that answer 410 (RFC 9110, 15.5.11). */
  readonly gone: readonly { readonly from: string; readonly reason: string }[];
  /** Which trailing slash pages have, where the other one does not lead to it. */
  readonly slash?: { readonly form: 'add' | 'remove'; readonly reason: string };
  /** What was asked for and is not in the rules, with why. */
  readonly refused: readonly { readonly from: string; readonly to: string; readonly why: string }[];
}

/** Pages of a folder that have to move alike before one pattern stands for them. */
const FOLDER_PAGES = 3;

/**
 * Plans redirect rules in their shortest form.
 * @param living paths of pages that answer: no pattern may take them away
 * @throws InputError for an address with two targets
 */
export function planRedirects(input: {
  readonly home: string;
  readonly canonical?: string;
  readonly chosen: readonly ChosenTarget[];
  readonly living?: readonly string[];
  readonly slash?: RedirectPlan['slash'];
}): RedirectPlan {
  const home = new URL(input.home);
  const origin = `https://${home.host}`;
  const refused: { from: string; to: string; why: string }[] = [];
  const gone: { from: string; reason: string }[] = [];
  const targets = new Map<string, string>();
  for (const { from, to } of input.chosen) {
    const refuse = (why: string) => refused.push({ from, to, why });
    const source = URL.canParse(from, origin) ? new URL(from, origin) : undefined;
    if (!source || !/^https?:$/.test(source.protocol)) refuse('the old URL cannot be read');
    else if (bareForm(source.hostname) !== bareForm(home.hostname))
      refuse('the old URL is on another host: set the rule there');
    else if (to.trim() === '') refuse('no page was chosen: it stays an honest 404');
    else if (/^(gone|410)$/i.test(to.trim())) gone.push({ from: pathOf(source), reason: 'removed for good' });
    else {
      const target = URL.canParse(to, origin) ? new URL(to, origin) : undefined;
      if (!target || !/^https?:$/.test(target.protocol)) {
        refuse('the new URL cannot be read');
        continue;
      }
      const own = bareForm(target.hostname) === bareForm(home.hostname);
      const absolute = own ? origin + target.pathname + target.search : target.href;
      const path = pathOf(source);
      if (absolute === origin + path) refuse('it would redirect to itself');
      else if (own && target.pathname === '/' && !/^\/(index|default|home)\b/i.test(source.pathname))
        refuse('the home page is not what was asked for: choose the nearest page, or leave it a 404');
      else {
        const known = targets.get(path);
        if (known !== undefined && known !== absolute)
          throw new InputError(
            `${path} has two targets: ${known} and ${absolute}.`,
            'list of missing pages',
            'Keep one of them.',
          );
        targets.set(path, absolute);
      }
    }
  }
  for (const [from] of [...targets]) {
    const end = endOf(from, targets, origin);
    if (end === undefined) {
      refused.push({ from, to: targets.get(from) ?? '', why: 'the targets redirect to each other in a loop' });
      continue;
    }
    targets.set(from, end);
  }
  for (const r of refused) if (r.why.includes('loop')) targets.delete(r.from);
  const { folders, single } = findFolders(targets, origin, input.living ?? []);
  return {
    origin,
    hosts: hostForms(home.hostname).map((h) => h + (home.port ? `:${home.port}` : '')),
    canonical: input.canonical,
    pages: single.map(([from, to]) => ({ from, to, reason: 'the page is missing, this one was chosen for it' })),
    folders,
    gone,
    slash: input.slash,
    refused,
  };
}

const pathOf = (url: URL) => url.pathname + url.search;

/** Where a chain of targets ends; undefined for a loop. */
function endOf(from: string, targets: ReadonlyMap<string, string>, origin: string): string | undefined {
  const seen = new Set([from]);
  for (let to = targets.get(from); to !== undefined;) {
    if (!to.startsWith(origin + '/')) return to;
    const path = to.slice(origin.length);
    if (seen.has(path)) return undefined;
    seen.add(path);
    const next = targets.get(path);
    if (next === undefined) return to;
    to = next;
  }
  return undefined;
}

/** Folders that move as a whole, and what is left. */
function findFolders(
  targets: ReadonlyMap<string, string>,
  origin: string,
  living: readonly string[],
): { folders: MovedFolder[]; single: [string, string][] } {
  const groups = new Map<string, { from: string; to: string; pages: [string, string][] }>();
  for (const [from, to] of targets) {
    const move = folderMove(from, to, origin);
    if (!move) continue;
    const key = `${move.from} ${move.to}`;
    const group = groups.get(key) ?? { ...move, pages: [] };
    group.pages.push([from, to]);
    groups.set(key, group);
  }
  const folders: MovedFolder[] = [];
  const taken = new Set<string>();
  for (const g of [...groups.values()].sort((a, b) => b.pages.length - a.pages.length)) {
    const others = [...targets].some(
      ([from, to]) => from.startsWith(g.from) && to !== g.to + from.slice(g.from.length),
    );
    const alive = living.some((path) => path.startsWith(g.from));
    // A target inside the folder would be moved again.
    const inside = g.to.startsWith(origin + g.from);
    if (g.pages.length < FOLDER_PAGES || others || alive || inside) continue;
    folders.push({
      from: g.from,
      to: g.to,
      pages: g.pages.length,
      reason: `all ${g.pages.length} missing pages of this folder move alike, and no living page is in it`,
    });
    for (const [from] of g.pages) taken.add(from);
  }
  return { folders, single: [...targets].filter(([from]) => !taken.has(from)) };
}

/** The folders in front of the longest common end of two addresses; undefined when the ends differ or the old one is the root. */
function folderMove(from: string, to: string, origin: string): { from: string; to: string } | undefined {
  if (from.includes('?') || !to.startsWith(origin + '/')) return undefined;
  const a = from.split('/');
  const b = to.slice(origin.length).split('/');
  let same = 0;
  while (same < a.length - 1 && same < b.length - 1 && a[a.length - 1 - same] === b[b.length - 1 - same]) same++;
  const left = a.slice(0, a.length - same);
  if (same === 0 || left.length < 2) return undefined;
  const tail = a.slice(a.length - same).join('/');
  if (tail === '') return undefined;
  return { from: left.join('/') + '/', to: origin + b.slice(0, b.length - same).join('/') + '/' };
}

/** What the rules promise for a request; undefined where they leave it to the site. */
export function promised(
  plan: RedirectPlan,
  url: string,
): { readonly status: 301 | 410; readonly location?: string } | undefined {
  const at = new URL(url);
  if (!plan.hosts.includes(at.host) && !plan.hosts.includes(at.hostname)) return undefined;
  const moved = moveOf(plan, at);
  if (moved === 'gone') return { status: 410 };
  const leads = plan.canonical !== undefined && at.origin !== plan.origin;
  const target = moved ?? (leads ? plan.origin + at.pathname + at.search : undefined);
  return target === undefined ? undefined : { status: 301, location: target };
}

function moveOf(plan: RedirectPlan, at: URL): string | 'gone' | undefined {
  const whole = at.pathname + at.search;
  const page =
    plan.pages.find((p) => p.from === whole) ?? plan.pages.find((p) => p.from === at.pathname && !p.from.includes('?'));
  const keepQuery = (to: string) =>
    page?.from.includes('?') || at.search === '' || to.includes('?') ? to : to + at.search;
  if (page) return keepQuery(page.to);
  if (plan.gone.some((g) => g.from === whole || g.from === at.pathname)) return 'gone';
  const folder = plan.folders.find((f) => at.pathname.startsWith(f.from));
  if (folder) return folder.to + at.pathname.slice(folder.from.length) + at.search;
  if (plan.slash?.form === 'add' && lacksSlash(at.pathname)) return plan.origin + at.pathname + '/' + at.search;
  if (plan.slash?.form === 'remove' && at.pathname.length > 1 && at.pathname.endsWith('/'))
    return plan.origin + at.pathname.slice(0, -1) + at.search;
  return undefined;
}

/** A path that is no file and does not end with a slash. */
const lacksSlash = (path: string) => !path.endsWith('/') && !(path.split('/').at(-1) ?? '').includes('.');

/** An address to ask for, with what has to come back. */
export interface RuleCheck {
  readonly url: string;
  readonly status: number;
  readonly location?: string;
}

/** Addresses that show whether the rules are in force: one for each rule and way in. */
export function ruleChecks(plan: RedirectPlan): RuleCheck[] {
  const paths = [
    '/',
    ...plan.pages.map((p) => p.from),
    ...plan.gone.map((g) => g.from),
    ...plan.folders.map((f) => `${f.from}any-page/`),
    ...(plan.slash ? [plan.slash.form === 'add' ? '/any-page' : '/any-page/'] : []),
  ];
  const origins =
    plan.canonical === undefined ? [plan.origin] : plan.hosts.flatMap((h) => [`http://${h}`, `https://${h}`]);
  return paths
    .flatMap((path) =>
      (path === '/' ? origins : [origins.find((o) => o.startsWith('http:')) ?? plan.origin, plan.origin]).flatMap(
        (o) => {
          const answer = promised(plan, o + path);
          return answer ? [{ url: o + path, ...answer }] : [];
        },
      ),
    )
    .filter((c, i, all) => all.findIndex((o) => o.url === c.url) === i);
}
