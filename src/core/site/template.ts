import { shortHash } from '../hash';

/** Elements that hold content rather than structure: without a class they say nothing about a template. */
const CONTENT = new Set(
  'a abbr address audio b blockquote br button canvas caption cite code col colgroup dd del details dfn dl dt em embed figcaption figure h1 h2 h3 h4 h5 h6 hr i img input ins kbd label li mark noscript object ol option p picture pre q s samp script small source span strong style sub summary sup svg table tbody td textarea tfoot th thead time tr u ul var video link meta path g use iframe'.split(
    ' ',
  ),
);
const MAX_FEATURES = 240;
const MAX_DEPTH = 14;

interface Tagged {
  readonly tagName: string;
  readonly attrs: readonly { readonly name: string; readonly value: string }[];
}

/**
 * Collects what tells the template of a page: which structural elements and named boxes stand inside which.
 * How often one comes, its text and its attributes do not matter, so pages of one template agree.
 */
export class TemplateReader {
  private readonly seen = new Set<string>();

  /** Takes an element below `structure`; returns what its children stand below. */
  step(element: Tagged, structure: string, depth: number): string {
    const { tagName } = element;
    if (tagName === 'head' || depth > MAX_DEPTH) return structure;
    const classes = classNames(element);
    if (classes === '' && CONTENT.has(tagName)) return structure;
    const key = classes === '' ? tagName : `${tagName}.${classes}`;
    if (this.seen.size < MAX_FEATURES) this.seen.add(`${structure}>${key}`);
    // Two steps are enough to tell boxes apart; whole paths would differ with every wrapper.
    const last = structure.slice(structure.lastIndexOf('>') + 1);
    return last ? `${last}>${key}` : key;
  }

  /** Hashes of the features, sorted. */
  features(): string[] {
    return [...this.seen].map((f) => remembered(hashes, f, (x) => shortHash(x).slice(0, 8))).sort();
  }
}

/** Pages of a site repeat each other's boxes: what follows from their names alone is worked out once. */
const hashes = new Map<string, string>();
const names = new Map<string, string>();
const REMEMBERED = 5000;

function remembered(known: Map<string, string>, key: string, make: (key: string) => string): string {
  const found = known.get(key);
  if (found !== undefined) return found;
  if (known.size >= REMEMBERED) known.clear();
  const made = make(key);
  known.set(key, made);
  return made;
}

function classNames(element: Tagged): string {
  for (const a of element.attrs) if (a.name === 'class') return remembered(names, a.value, givenNames);
  return '';
}

/** Class names that a person gave: those with digits are mostly made for one place. */
function givenNames(value: string): string {
  return value
    .split(/\s+/)
    .filter((c) => c && c.length <= 30 && !/\d/.test(c))
    .sort()
    .slice(0, 3)
    .join('.');
}

/** Pages with the same features. */
export interface FeatureGroup {
  readonly fingerprint: string;
  readonly features: readonly string[];
  readonly pages: number;
}

/** Share of features that two pages of one template have in common: of all of them, and of them by weight. */
export const ALIKE = { plain: 0.7, weighted: 0.4 } as const;
/** What a feature weighs that every page has: little, as a site's frame tells no templates apart. */
const FRAME_WEIGHT = 0.05;

/**
 * Puts groups of pages together into templates: the largest group first, each next one joins the template that
 * it is most alike (shared features over all, plain and by weight, at least ALIKE) or starts its own. The fewer
 * pages have a feature, the more it weighs; many equal pages count less than as many different ones. The same groups give the same templates, in whatever order they
 * come. Returns the template's name (its first fingerprint) by fingerprint.
 */
export function groupTemplates(groups: readonly FeatureGroup[]): Map<string, string> {
  const out = new Map<string, string>();
  const heads: { fingerprint: string; features: ReadonlySet<string>; weight: number }[] = [];
  const order = [...groups].sort((a, b) => b.pages - a.pages || (a.fingerprint < b.fingerprint ? -1 : 1));
  const total = groups.reduce((n, g) => n + Math.sqrt(g.pages), 0);
  const having = new Map<string, number>();
  for (const group of groups)
    for (const f of group.features) having.set(f, (having.get(f) ?? 0) + Math.sqrt(group.pages));
  const weight = (f: string) => FRAME_WEIGHT + 1 - (having.get(f) ?? 0) / total;
  const sum = (features: Iterable<string>) => {
    let n = 0;
    for (const f of features) n += weight(f);
    return n;
  };
  for (const group of order) {
    const own = sum(group.features);
    let best: { fingerprint: string; alike: number } | undefined;
    for (const head of heads) {
      const common = group.features.filter((f) => head.features.has(f));
      const plain = ratio(common.length, head.features.size + group.features.length - common.length);
      if (plain < ALIKE.plain) continue;
      const shared = sum(common);
      const alike = ratio(shared, head.weight + own - shared);
      if (alike >= ALIKE.weighted && alike > (best?.alike ?? 0)) best = { fingerprint: head.fingerprint, alike };
    }
    if (!best) heads.push({ fingerprint: group.fingerprint, features: new Set(group.features), weight: own });
    out.set(group.fingerprint, best?.fingerprint ?? group.fingerprint);
  }
  return out;
}

const ratio = (part: number, all: number) => (all <= 0 ? 1 : part / all);

/**
 * A name for a template from the paths of its pages: the deepest folder that four fifths of them share, or the
 * path of the only page.
 */
export function templateName(paths: readonly string[]): string {
  if (paths.length === 1) return paths[0] ?? '/';
  let prefix = '/';
  for (;;) {
    const counts = new Map<string, number>();
    for (const path of paths) {
      if (!path.startsWith(prefix)) continue;
      const end = path.indexOf('/', prefix.length);
      if (end < 0) continue;
      const next = path.slice(0, end + 1);
      counts.set(next, (counts.get(next) ?? 0) + 1);
    }
    const [best, n] = [...counts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))[0] ?? ['', 0];
    if (n < paths.length * 0.8 || n < 2) break;
    prefix = best;
  }
  return `${prefix}*`;
}
