import type { Concern, Harm } from './concern';
import type { Load } from '../capture/capture';
import type { CrawlFacts } from './crawlFacts';
import { originOf } from '../capture/url';
import { shortHash } from '../hash';
import type { Hero } from '../load/hero';
import { elementLabel, lineText, placeOf, type SourceElement } from '../source/document';
import type { Page, PageStyle } from '../source/page';

/** A place in a source file. */
export interface SourcePlace {
  readonly url: string;
  readonly line: number;
  readonly column: number;
  readonly text: string;
}

/** What shows that a finding is true. */
export interface Evidence {
  readonly source?: SourcePlace;
  /** How a person names the element, and its selector path. */
  readonly element?: string;
  readonly path?: string;
  readonly load?: { readonly index: number; readonly url: string; readonly status: number; readonly bytes: number };
  /** All files that a finding about several counts, with their bytes and where the source names them. */
  readonly files?: readonly { readonly url: string; readonly bytes: number; readonly line?: number }[];
  readonly numbers: Readonly<Record<string, number>>;
}

/** One fault found by a check at one place. */
export interface Finding {
  readonly id: string;
  readonly check: string;
  readonly concern: Concern;
  readonly harm: Harm;
  readonly page: string;
  readonly target: string;
  /** The same for findings that one change removes, on whatever pages they are. */
  readonly cause: string;
  readonly evidence: Evidence;
  /** Technical, for a developer. */
  readonly title: string;
  /** In plain words, for an owner. */
  readonly plain: string;
}

/** Sizes that were really measured (by compressing or re-encoding), by load index. */
export interface MeasuredSizes {
  readonly compressed: ReadonlyMap<number, number>;
  readonly resized: ReadonlyMap<number, number>;
  /** Styles and scripts without what only people read, as they would travel. */
  readonly minified?: ReadonlyMap<number, number>;
  /** Pictures in their own format and size: bytes, and how alike they look (structural similarity, 1 for the same). */
  readonly reencoded?: ReadonlyMap<number, { readonly bytes: number; readonly similarity: number }>;
}

/** What a check looks at. */
export interface Subject {
  readonly page: Page;
  readonly hero: Hero;
  readonly sizes: MeasuredSizes;
  /** Limits that the site has set for itself. */
  readonly limits?: Limits;
  /** Absent for a recording that belongs to no sweep. */
  readonly crawl?: CrawlFacts;
}

/** A limit of a check, with its default and the reason for it. */
export interface Threshold {
  readonly id: string;
  /** In words, with the direction: `bytes from`. */
  readonly name: string;
  readonly unit: 'bytes' | 'ms' | 's' | 'count' | 'share' | 'px';
  readonly value: number;
  readonly why: string;
}

/** Limits that differ from the defaults, by `check.threshold`. */
export type Limits = Readonly<Record<string, number>>;

/** What findings of a check have in common when one change removes them all. */
export type Grouping = 'target' | 'host' | 'place';

/** One rule. Adding one is adding a file and a line in the index. */
export interface Check {
  readonly id: string;
  readonly concern: Concern;
  readonly question: string;
  readonly examines: string;
  readonly cannotSee: string;
  /** How to tell that a finding is gone for good. */
  readonly fixedWhen: string;
  /** Harms that its findings can have, the usual one first. */
  readonly harms: readonly Harm[];
  /** The standard it follows, with the section. */
  readonly standard: string;
  /** What a developer changes. */
  readonly change: string;
  /** What makes findings one cause: the file (the default), the host, or the like place in a template. */
  readonly groupedBy?: Grouping;
  readonly thresholds?: readonly Threshold[];
  examine(subject: Subject): Finding[];
}

interface FindingInput {
  readonly check: Pick<Check, 'id' | 'concern' | 'groupedBy'>;
  readonly subject: Subject;
  readonly harm: Harm;
  readonly target: string;
  readonly title: string;
  readonly plain: string;
  readonly element?: SourceElement;
  /** Offset in the document's text, where the element's start says too little. */
  readonly offset?: number;
  readonly style?: { readonly sheet: PageStyle; readonly offset: number };
  readonly load?: Load;
  /** All loads that it counts, where these are several. */
  readonly files?: readonly Load[];
  readonly path?: string;
  readonly numbers?: Record<string, number>;
  /** Tells faults apart that one check finds in one place: each is a cause of its own. */
  readonly fault?: string;
}

/** Builds a finding with its evidence; the id stays the same as long as check, page, target and place do. */
export function finding(input: FindingInput): Finding {
  const { check, subject, element, style, load } = input;
  const { page } = subject;
  let source: SourcePlace | undefined;
  if (element && page.document) {
    const at = input.offset === undefined ? element : placeOf(page.document.text, input.offset);
    source = {
      url: page.document.url,
      line: at.line,
      column: at.column,
      text: lineText(page.document.text, at.line, at.column),
    };
  } else if (style) {
    const { line, column } = placeOf(style.sheet.text, style.offset);
    const from = style.sheet.element;
    source = from
      ? {
          url: style.sheet.url,
          line: from.line,
          column: from.column,
          text: lineText(page.document?.text ?? '', from.line, from.column),
        }
      : { url: style.sheet.url, line, column, text: lineText(style.sheet.text, line, column) };
  }
  const pageUrl = page.capture.page;
  const place = source ? `${source.url}:${source.line}:${source.column}` : (input.path ?? load?.url ?? '');
  return {
    id: shortHash(`${check.id}|${pageUrl}|${input.target}|${place}`),
    check: check.id,
    concern: check.concern,
    harm: input.harm,
    page: pageUrl,
    target: input.target,
    cause: causeOf(input, source),
    evidence: {
      source,
      element: element && page.document ? elementLabel(page.document, element) : undefined,
      path: element?.path ?? input.path,
      load: load && { index: load.index, url: load.url, status: load.status, bytes: load.headerBytes + load.bodyBytes },
      ...(input.files && {
        files: input.files.map((l) => ({
          url: l.url,
          bytes: l.headerBytes + l.bodyBytes,
          line: page.mentionsOf(l.url).find((m) => !m.element.inert)?.element.line,
        })),
      }),
      numbers: input.numbers ?? {},
    },
    title: input.title,
    plain: input.plain,
  };
}

/** A check's limit: the site's own, else the default. */
export function limitOf(check: Pick<Check, 'id' | 'thresholds'>, subject: Subject, id: string): number {
  const threshold = check.thresholds?.find((t) => t.id === id);
  if (!threshold) throw new Error(`${check.id} has no threshold ${id}`);
  return subject.limits?.[`${check.id}.${id}`] ?? threshold.value;
}

/** One template line has the same element with the same attributes on every page, whatever their values. */
function causeOf({ check, element, target, subject, fault }: FindingInput, source: SourcePlace | undefined): string {
  const key = (what: string) => shortHash(`${check.id}|${what}${fault === undefined ? '' : `|${fault}`}`);
  if (check.groupedBy === 'host') return key(originOf(target) || target);
  if (check.groupedBy !== 'place') return key(target);
  if (!element || !subject.page.document) return key(source && source.url !== subject.page.capture.page ? target : '');
  return key(`${elementLabel(subject.page.document, element)} ${[...element.attributes.keys()].sort().join()}`);
}

/** The ending of an ordinal number: `st` for 21. */
export function ordinal(n: number): string {
  const tens = n % 100;
  return tens >= 11 && tens <= 13 ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th');
}
