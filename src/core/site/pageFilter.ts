/** What pages of a sweep are chosen by. Plain values, as they stand in an address. */
export interface PageFilter {
  /** In address or title. */
  readonly words?: string;
  readonly state?: readonly string[];
  /** HTTP statuses: `200`, or a class such as `4xx`. */
  readonly status?: readonly string[];
  /** Links from the home page; `none` where none leads. */
  readonly depth?: readonly string[];
  /** Names of ANSWER_BANDS. */
  readonly answer?: readonly string[];
  readonly folder?: readonly string[];
  readonly template?: readonly string[];
  readonly flag?: readonly PageFlag[];
  /** `language:en`; a name of PAGE_FACTS and a value, empty where a page has none. */
  readonly fact?: readonly string[];
}

/** Facts that pages can be narrowed to and grouped by, beside those with a list of their own. */
export const PAGE_FACTS = {
  language: 'Language',
  type: 'Type',
  encoding: 'Content coding',
  protocol: 'Protocol',
  origin: 'Found by',
} as const;
export type PageFact = keyof typeof PAGE_FACTS;

/** What pages can be grouped by. */
export const PAGE_GROUPS = [
  'folder',
  'template',
  'status',
  'depth',
  ...(Object.keys(PAGE_FACTS) as PageFact[]),
] as const;
export type PageGrouping = (typeof PAGE_GROUPS)[number];

/** Name and value of a part of `fact`. */
export function readFact(part: string): { readonly name: PageFact; readonly value: string } | undefined {
  const at = part.indexOf(':');
  const name = part.slice(0, Math.max(0, at));
  return Object.hasOwn(PAGE_FACTS, name) ? { name: name as PageFact, value: part.slice(at + 1) } : undefined;
}

/** The filter that shows the pages of one group. */
export function inGroup(filter: PageFilter, by: PageGrouping, value: string): PageFilter {
  if (Object.hasOwn(PAGE_FACTS, by)) {
    const others = (filter.fact ?? []).filter((f) => readFact(f)?.name !== by);
    return { ...filter, fact: [...others, `${by}:${value}`] };
  }
  return { ...filter, [by]: [value] };
}

/** Bands of answer time in ms, lower edge inside, upper edge outside. */
export const ANSWER_BANDS = [
  { name: '0-100', from: 0, to: 100 },
  { name: '100-200', from: 100, to: 200 },
  { name: '200-400', from: 200, to: 400 },
  { name: '400-800', from: 400, to: 800 },
  { name: '800-1600', from: 800, to: 1600 },
  { name: '1600-', from: 1600, to: Infinity },
] as const;

/** Yes-or-no facts of a page, by which an auditor looks for trouble. */
export const PAGE_FLAGS = {
  orphan: { name: 'Orphan page', means: 'It is in a sitemap or a list, but no page of the sweep links to it.' },
  'dead-end': { name: 'No outgoing links', means: 'A page without a single link: visitors and crawlers end there.' },
  redirect: { name: 'Redirects', means: 'It answers with a redirect, or sends on by meta refresh.' },
  'links-missing': {
    name: 'Broken links',
    means: 'It links to pages of the site that answer with an error.',
  },
  'links-redirected': { name: 'Links through redirects', means: 'It links to pages of the site that redirect.' },
  mentions: { name: 'Uses http:// URLs', means: 'Its source names addresses of the site itself by plain http.' },
  'plain-http': { name: 'Served over http', means: 'The page itself came over plain http.' },
  noindex: { name: 'noindex', means: 'A robots directive in its head or headers says noindex.' },
  'canonical-elsewhere': { name: 'Canonical elsewhere', means: 'Its canonical names another address than its own.' },
  'no-title': { name: 'No title', means: 'A page without a title.' },
  uncompressed: { name: 'Not compressed', means: 'More than 1 kB of text sent without content coding.' },
  captured: { name: 'Captured', means: 'A real browser recorded it in this sweep.' },
} as const;

export type PageFlag = keyof typeof PAGE_FLAGS;

/** The lists of a filter, each a parameter of an address with commas between its values. */
export const FILTER_LISTS = ['state', 'status', 'depth', 'answer', 'folder', 'template', 'flag', 'fact'] as const;

/** Reads a filter from the parameters of an address; what is not known is left out. */
export function readPageFilter(get: (name: string) => string | null): PageFilter {
  const words = get('words')?.trim();
  const out: Record<string, unknown> = words ? { words } : {};
  for (const name of FILTER_LISTS) {
    let values = (get(name) ?? '').split(',').filter(Boolean);
    if (name === 'flag') values = values.filter((v) => Object.hasOwn(PAGE_FLAGS, v));
    if (name === 'fact') values = values.filter((v) => readFact(v) !== undefined);
    if (values.length > 0) out[name] = values.slice(0, 100);
  }
  return out as PageFilter;
}

/** A filter as parameters of an address; empty ones are null. */
export function writePageFilter(filter: PageFilter): Record<string, string | null> {
  const out: Record<string, string | null> = { words: filter.words || null };
  for (const name of FILTER_LISTS) out[name] = filter[name]?.length ? filter[name].join(',') : null;
  return out;
}
