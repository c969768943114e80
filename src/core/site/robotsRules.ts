/** One rule of a group, ready to be matched with paths. */
interface Rule {
  readonly allow: boolean;
  /** Literal parts between the asterisks. */
  readonly parts: readonly string[];
  /** True for a pattern that ends with `$`. */
  readonly toEnd: boolean;
  /** Octets of the pattern: the longest that matches decides (RFC 9309, 2.2.2). */
  readonly length: number;
}

/** The rules that apply to one robot. */
export interface RobotsRules {
  /** Whether an address may be asked for. */
  allows(url: string): boolean;
  readonly sitemaps: readonly string[];
  readonly delayS?: number;
}

interface Group {
  readonly agents: string[];
  readonly rules: Rule[];
  delayS?: number;
}

/**
 * Reads a robots.txt for one robot (RFC 9309, 2.2): the groups that name it, else those for `*`, taken together. Rules
 * are compiled once; matching one takes time by the length of the path, whatever the pattern.
 * @param robot its product token
 */
export function compileRobots(text: string, robot: string): RobotsRules {
  const { groups, sitemaps } = readGroups(text);
  const own = groups.filter((g) => g.agents.some((a) => a === robot.toLowerCase()));
  const applying = own.length > 0 ? own : groups.filter((g) => g.agents.includes('*'));
  // The longest first, and of equal ones the one that allows: the first match decides.
  const rules = applying
    .flatMap((g) => g.rules)
    .sort((a, b) => b.length - a.length || Number(b.allow) - Number(a.allow));
  const index = indexOf(rules);
  return {
    sitemaps,
    delayS: applying.find((g) => g.delayS !== undefined)?.delayS,
    allows(url) {
      if (!URL.canParse(url)) return true;
      const { pathname, search } = new URL(url);
      const path = normal(pathname + search);
      // robots.txt itself may always be asked for.
      if (path === '/robots.txt') return true;
      return firstMatch(index, path)?.allow ?? true;
    },
  };
}

function readGroups(text: string): { groups: Group[]; sitemaps: string[] } {
  const groups: Group[] = [];
  const sitemaps: string[] = [];
  let group: Group | undefined;
  let naming = false;
  for (const line of text.replace(/^\ufeff/, '').split(/\r\n|\r|\n/)) {
    const m = /^\s*([a-z-]+)\s*:\s*(.*?)\s*$/i.exec(line.replace(/#.*$/, ''));
    if (!m) continue;
    const name = (m[1] ?? '').toLowerCase();
    const value = m[2] ?? '';
    if (name === 'sitemap') {
      if (value) sitemaps.push(value);
    } else if (name === 'user-agent') {
      if (!group || !naming) groups.push((group = { agents: [], rules: [] }));
      naming = true;
      group.agents.push(productToken(value));
    } else if (name === 'allow' || name === 'disallow') {
      naming = false;
      // An empty pattern matches nothing.
      if (group && value) group.rules.push(compile(value, name === 'allow'));
    } else if (name === 'crawl-delay') {
      naming = false;
      const delay = Number(value);
      if (group && value && delay >= 0 && Number.isFinite(delay)) group.delayS ??= delay;
    }
  }
  return { groups, sitemaps };
}

/** `Fern-Robot/1.2 (garden)` names fern-robot. */
const productToken = (value: string) => (value === '*' ? '*' : (/^[a-z_-]+/i.exec(value)?.[0] ?? value).toLowerCase());

function compile(pattern: string, allow: boolean): Rule {
  const toEnd = pattern.endsWith('$');
  const whole = normal(toEnd ? pattern.slice(0, -1) : pattern);
  return { allow, parts: whole.replace(/\*+/g, '*').split('*'), toEnd, length: pattern.length };
}

/** Characters of a rule's longest part by which it is looked up. */
const KEY = 3;

/** Rules with their place in the order, by a piece that a path must hold for them to match. */
type RuleIndex = ReadonlyMap<string, readonly { readonly rule: Rule; readonly place: number }[]>;

/** Of thousands of rules few can match a path: those of whose pieces it holds one. */
function indexOf(rules: readonly Rule[]): RuleIndex {
  const index = new Map<string, { rule: Rule; place: number }[]>();
  rules.forEach((rule, place) => {
    const key = rule.parts.reduce((a, b) => (b.length > a.length ? b : a), '').slice(-KEY);
    const list = index.get(key);
    if (list) list.push({ rule, place });
    else index.set(key, [{ rule, place }]);
  });
  return index;
}

function firstMatch(index: RuleIndex, path: string): Rule | undefined {
  const keys = new Set(['']);
  for (let i = 0; i < path.length; i++)
    for (let length = 1; length <= KEY; length++) keys.add(path.slice(i, i + length));
  let best: { rule: Rule; place: number } | undefined;
  for (const key of keys)
    for (const one of index.get(key) ?? [])
      if ((!best || one.place < best.place) && matches(one.rule, path)) best = one;
  return best?.rule;
}

/** The parts one after the other, each as early as it comes; the last one at the end where that is asked for. */
function matches({ parts, toEnd }: Rule, path: string): boolean {
  const [first = '', ...rest] = parts;
  if (!path.startsWith(first)) return false;
  let at = first.length;
  if (rest.length === 0) return !toEnd || at === path.length;
  for (let i = 0; i < rest.length - 1; i++) {
    const part = rest[i] ?? '';
    const found = path.indexOf(part, at);
    if (found < 0) return false;
    at = found + part.length;
  }
  const last = rest.at(-1) ?? '';
  if (!toEnd) return path.indexOf(last, at) >= 0;
  return path.length - last.length >= at && path.endsWith(last);
}

/** The one form of a path in which octets are compared (RFC 9309, 2.2.2; RFC 3986, 6.2.2). */
function normal(path: string): string {
  return path
    .replace(/[^\x00-\x7f]+/g, (text) =>
      [...new TextEncoder().encode(text)].map((byte) => `%${byte.toString(16)}`).join(''),
    )
    .replace(/%([0-9a-f]{2})/gi, (whole, hex: string) => {
      const char = String.fromCharCode(parseInt(hex, 16));
      return /[A-Za-z0-9\-._~]/.test(char) ? char : whole.toUpperCase();
    });
}
