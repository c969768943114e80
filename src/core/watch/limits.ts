import { InputError } from '../capture/errors';
import { bytesText } from '../checks/texts';
import { CONCERNS, type Concern, type Harm } from '../checks/concern';
import { timeText } from '../handover/effectText';
import { pagesIn, type Scope } from '../plan/plan';
import { CRAWL_FIGURES, crawlValue, isCrawlFigure, type CrawledPage } from './crawlFigures';
import { averageOf, PAGE_FIGURES, type PageFigure, type PageFigures, type Ranged } from './figures';

/** Figures of a whole site: findings that the sweep before did not have, days of the certificate that ends first, ways in that lead visitors wrong. */
export const SITE_FIGURES = ['newFindings', 'certificateDays', 'faultyEntrances'] as const;

/** All that a watch can limit. */
export const WATCHED_FIGURES = [...PAGE_FIGURES, 'findings', ...CRAWL_FIGURES, ...SITE_FIGURES] as const;
export type WatchedFigure = (typeof WATCHED_FIGURES)[number];

/** The most that a figure may be; of certificate days the least. */
export interface WatchLimit {
  readonly figure: WatchedFigure;
  /** An id or a spec. */
  readonly visitor: string;
  /** Templates are told by their names: ids follow the structure of pages, which changes from sweep to sweep. */
  readonly scope: Scope;
  readonly bound: number;
  /** Share of the bound by which it may be passed; one load is not like the next. */
  readonly tolerance: number;
  /** Findings of this concern or harm only. */
  readonly concern?: Concern;
  readonly harm?: Harm;
}

/** What a sweep and its probe say, as far as limits ask. */
export interface WatchFacts {
  readonly pages: readonly PageFigures[];
  /** Every page that the sweep visited; undefined for one that visited none. */
  readonly crawled?: readonly CrawledPage[];
  /** New findings by concern and harm; undefined for the first sweep. */
  readonly news?: readonly { readonly concern: Concern; readonly harm: Harm }[];
  /** Of the last probe; undefined where there was none. */
  readonly certificateDays?: number;
  readonly faultyEntrances?: number;
}

/** What a limit came to. */
export interface LimitResult extends Ranged {
  /** It is passed, beyond its tolerance. */
  readonly over: boolean;
  /** It is broken: the whole range lies beyond it, it was passed twice in a row, or its figure has no noise. */
  readonly broken: boolean;
}

/** Figures that come out alike whenever they are counted. */
const COUNTED: readonly WatchedFigure[] = [
  'findings',
  ...CRAWL_FIGURES.filter((f) => f !== 'answerMs'),
  ...SITE_FIGURES,
];

/** The value of a limited figure; undefined where nothing is known of it. */
export function limitedValue(limit: WatchLimit, facts: WatchFacts): Ranged | undefined {
  const { figure } = limit;
  const chosen = <T extends { concern: Concern; harm: Harm }>(list: readonly T[]) =>
    list.filter((f) => (limit.concern ?? f.concern) === f.concern && (limit.harm ?? f.harm) === f.harm);
  if (figure === 'newFindings') return facts.news && { value: chosen(facts.news).length };
  if (figure === 'certificateDays' || figure === 'faultyEntrances') {
    const value = facts[figure];
    return value === undefined ? undefined : { value };
  }
  if (isCrawlFigure(figure)) return facts.crawled && crawlValue(pagesIn(facts.crawled, limit.scope), figure);
  const pages = pagesIn(facts.pages, limit.scope);
  if (figure !== 'findings') return averageOf(pages, figure);
  if (pages.length === 0) return undefined;
  return { value: pages.flatMap((p) => chosen(p.findings)).reduce((sum, f) => sum + f.count, 0) };
}

/**
 * Judges a limit. Noise does not break it: a figure that varies has to pass it with its whole range, or twice in a row.
 * @param passedBefore it was passed the last time as well
 */
export function judgeLimit(limit: WatchLimit, now: Ranged, passedBefore: boolean): LimitResult {
  const { bound, figure } = limit;
  if (figure === 'certificateDays') return { ...now, over: now.value < bound, broken: now.value < bound };
  const over = now.value > bound * (1 + limit.tolerance);
  const certain = COUNTED.includes(figure) || (now.range !== undefined && now.range[0] > bound);
  return { ...now, over, broken: over && (certain || passedBefore) };
}

const NAMES: Readonly<Record<WatchedFigure, string>> = {
  lcpMs: 'Hero paint (LCP)',
  fcpMs: 'First paint (FCP)',
  loadMs: 'Load event',
  cls: 'Layout shift (CLS)',
  bytes: 'Bytes transferred',
  requests: 'Requests',
  findings: 'Findings',
  brokenPages: 'Pages that answer with an error',
  missingLinks: 'Links to missing pages',
  redirectedLinks: 'Links through redirects',
  httpMentions: 'Uses of http:// URLs',
  noindexPages: 'Pages with noindex',
  canonicalElsewhere: 'Pages whose canonical is elsewhere',
  answerMs: 'Response time of pages',
  newFindings: 'New findings',
  certificateDays: 'Days until a certificate ends',
  faultyEntrances: 'Entrances at fault',
};

/** Name of a figure, with the concern and harm that it is narrowed to. */
export function figureName(figure: WatchedFigure, narrowed: Pick<WatchLimit, 'concern' | 'harm'> = {}): string {
  const concern = CONCERNS.find((c) => c.id === narrowed.concern)?.name;
  const more = [concern, narrowed.harm].filter(Boolean).join(', ');
  return more ? `${NAMES[figure]} (${more})` : NAMES[figure];
}

/** A value of a figure with its unit. */
export function watchedText(figure: WatchedFigure, value: number): string {
  if (figure === 'bytes') return bytesText(value);
  if (figure === 'cls') return value.toFixed(3);
  if (figure === 'certificateDays' && value < 0) return `ended ${-value} ${value === -1 ? 'day' : 'days'} ago`;
  if (figure === 'certificateDays') return `${value} ${value === 1 ? 'day' : 'days'}`;
  return /Ms$/.test(figure) ? timeText(value) : value.toLocaleString('en-GB');
}

/** The pages of a limit in words. */
function pagesText({ scope }: Pick<WatchLimit, 'scope'>): string {
  if (scope.kind === 'all') return 'the site';
  return scope.kind === 'page' ? scope.page : `template ${scope.template}`;
}

/** A limit in a line: "Hero paint (LCP) of the site: at most 2.5 s". */
export function limitText(limit: WatchLimit): string {
  const bound = boundText(limit);
  const of =
    isPageFigure(limit.figure) || limit.figure === 'findings' || isCrawlFigure(limit.figure)
      ? ` of ${pagesText(limit)}`
      : '';
  return `${figureName(limit.figure, limit)}${of}: ${bound}`;
}

/** What came of a limit, in a line. */
export function resultText(limit: WatchLimit, result: Ranged): string {
  const text = (n: number) => watchedText(limit.figure, n);
  const range = result.range ? ` (${text(result.range[0])} to ${text(result.range[1])})` : '';
  return `${figureName(limit.figure, limit)}: ${text(result.value)}${range}; ${boundText(limit)} wanted`;
}

/** "at most 2.5 s"; of days of a certificate "at least 21 days". */
function boundText({ figure, bound }: Pick<WatchLimit, 'figure' | 'bound'>): string {
  return `${figure === 'certificateDays' ? 'at least' : 'at most'} ${watchedText(figure, bound)}`;
}

const isPageFigure = (figure: WatchedFigure): figure is PageFigure => PAGE_FIGURES.includes(figure as PageFigure);

/**
 * Refuses a limit that cannot be judged.
 * @throws InputError that names the field
 */
export function checkLimit(limit: WatchLimit): void {
  if (!Number.isFinite(limit.bound) || limit.bound < 0 || limit.bound > 1e12)
    throw new InputError('A limit is a number from 0 up.', 'bound', 'State the most that the figure may be.');
  if (!(limit.tolerance >= 0 && limit.tolerance <= 10))
    throw new InputError('A tolerance is a share from 0 to 10.', 'tolerance', 'Write 0.1 for ten per cent.');
  if ((limit.concern ?? limit.harm) !== undefined && limit.figure !== 'findings' && limit.figure !== 'newFindings')
    throw new InputError(
      'Only findings can be limited by concern or harm.',
      'concern',
      'Leave concern and harm out, or limit findings.',
    );
  if (limit.scope.kind === 'template' && isCrawlFigure(limit.figure))
    throw new InputError('This figure is of the site or of one page.', 'scope', 'Choose the site or a page.');
  if (limit.scope.kind !== 'all' && SITE_FIGURES.includes(limit.figure as (typeof SITE_FIGURES)[number]))
    throw new InputError('This figure is of the whole site.', 'scope', 'Choose the site as its scope.');
}
