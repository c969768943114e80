import { hostOf } from '../capture/url';
import { isThirdParty } from '../capture/site';
import type { Finding, MeasuredSizes } from '../checks/finding';
import { shortHash } from '../hash';
import type { Hero } from '../load/hero';
import type { LoadGraph } from '../load/graph';
import type { Page } from '../source/page';
import type { Edit } from './edits';
import type { ServerChange } from './serverChange';

/** Ids of the kinds of fix, as in the command line. */
export type FixKindId =
  | 'hero-eager'
  | 'hero-preload'
  | 'hero-priority'
  | 'image-resize'
  | 'text-compress'
  | 'script-defer'
  | 'style-nonblocking'
  | 'redirect-skip'
  | 'http-upgrade'
  | 'offscreen-lazy'
  | 'script-async'
  | 'style-inline-critical'
  | 'style-remove-unused'
  | 'import-flatten'
  | 'minify'
  | 'preconnect'
  | 'font-preload'
  | 'font-swap'
  | 'font-convert'
  | 'self-host'
  | 'cache-policy'
  | 'hsts'
  | 'dimensions'
  | 'server-faster'
  | 'content-in-html';

/** One change that removes one or more findings of a page. */
export interface Fix {
  readonly id: string;
  readonly kind: FixKindId;
  /** URL, or `*` for all of that kind on the page. */
  readonly target: string;
  readonly page: string;
  readonly findings: readonly string[];
  /** Minutes of work, by kind. */
  readonly effort: number;
  readonly title: string;
  /** Fixes of several pages that are one change (the same file, the same kind of hero). */
  readonly group: string;
  /** Keys as on the command line, e.g. `bytes`. */
  readonly values: Readonly<Record<string, number>>;
  /** Host of the third party that has to make the change, since nobody else can. */
  readonly thirdParty?: string;
}

/** What fixes are offered from. */
export interface OfferContext {
  readonly page: Page;
  readonly hero: Hero;
  readonly sizes: MeasuredSizes;
}

/** What a kind of fix does to the graph: all that a forecast needs of it. */
export interface GraphEdit {
  /** Fixes are applied in this order, whatever order they were chosen in. */
  readonly order: number;
  /** The graph with the fix applied; the same graph when it changes nothing. */
  onGraph(graph: LoadGraph, fix: Fix): LoadGraph;
}

/** One kind of fix: an edit of the graph and an edit of the source. */
export interface FixKind extends GraphEdit {
  readonly id: FixKindId;
  readonly title: string;
  readonly effort: number;
  offer(findings: readonly Finding[], context: OfferContext): Fix[];
  /** Edits of real source that do the same. Empty when the change is not in the source (server settings). */
  onSource(fix: Fix, context: OfferContext): Edit[];
  /** What has to change outside the source. */
  onServer?(fix: Fix, context: OfferContext): ServerChange[];
}

interface FixInput {
  readonly kind: Pick<FixKind, 'id' | 'effort'>;
  readonly page: Page;
  readonly target: string;
  readonly findings: readonly Finding[];
  readonly title: string;
  readonly group: string;
  readonly values?: Record<string, number>;
  /** Address of the file or server that changes, where that may be a third party's. */
  readonly changes?: string;
}

/** Builds a fix; its id depends on kind, page and target only. */
export function makeFix(input: FixInput): Fix {
  const page = input.page.capture.page;
  return {
    id: shortHash(`${input.kind.id}|${page}|${input.target}`),
    kind: input.kind.id,
    target: input.target,
    page,
    findings: input.findings.map((f) => f.id),
    effort: input.kind.effort,
    title: input.title,
    group: `${input.kind.id}|${input.group}`,
    values: input.values ?? {},
    ...(input.changes && isThirdParty(input.page, input.changes) ? { thirdParty: hostOf(input.changes) } : {}),
  };
}

/** One fix of the hero that answers all findings of some checks; none when the first of these checks found nothing. */
export function offerForHero(
  kind: FixKind,
  findings: readonly Finding[],
  context: OfferContext,
  checks: readonly string[],
): Fix[] {
  const own = findings.filter((f) => checks.includes(f.check));
  const first = own.find((f) => f.check === checks[0]) ?? own[0];
  if (!first) return [];
  return [makeFix({ kind, page: context.page, target: first.target, findings: own, title: kind.title, group: 'hero' })];
}

/** Findings about files of the site itself: others' files cannot be edited, only hosted or asked for. */
export function aboutOwnFiles(
  findings: readonly Finding[],
  context: OfferContext,
  fileOf: (finding: Finding) => string = (f) => f.target,
): Finding[] {
  return findings.filter((f) => !isThirdParty(context.page, fileOf(f)));
}

/** One fix for each finding of a check. */
export function offerEach(
  kind: FixKind,
  findings: readonly Finding[],
  context: OfferContext,
  check: string,
  describe: (finding: Finding) => Pick<FixInput, 'title' | 'group' | 'values' | 'changes'>,
): Fix[] {
  return findings
    .filter((f) => f.check === check)
    .map((f) => makeFix({ kind, page: context.page, target: f.target, findings: [f], ...describe(f) }));
}
