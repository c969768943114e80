import type { Load } from '../capture/capture';
import { shortHash } from '../hash';
import type { Hero } from '../load/hero';
import { elementLabel, lineText, placeOf, type SourceElement } from '../source/document';
import type { Page, PageStyle } from '../source/page';

/** The five concerns. */
export type Concern = 'https' | 'mixed' | 'hero' | 'weight' | 'blocking';

/** What a finding does to visitors. */
export type Harm = 'broken' | 'exposed' | 'slow' | 'tidy';

export const CONCERNS: readonly { readonly id: Concern; readonly name: string }[] = [
  { id: 'https', name: 'HTTPS coverage' },
  { id: 'mixed', name: 'Mixed content' },
  { id: 'hero', name: 'Hero' },
  { id: 'weight', name: 'Weight' },
  { id: 'blocking', name: 'Blocking' },
];

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
}

/** What a check looks at. */
export interface Subject {
  readonly page: Page;
  readonly hero: Hero;
  readonly sizes: MeasuredSizes;
}

/** One rule. Adding one is adding a file and a line in the index. */
export interface Check {
  readonly id: string;
  readonly concern: Concern;
  readonly question: string;
  readonly looksAt: string;
  readonly cannotSee: string;
  /** How to tell that a finding is gone for good. */
  readonly fixedWhen: string;
  examine(subject: Subject): Finding[];
}

interface FindingInput {
  readonly check: Pick<Check, 'id' | 'concern'>;
  readonly subject: Subject;
  readonly harm: Harm;
  readonly target: string;
  readonly title: string;
  readonly plain: string;
  readonly element?: SourceElement;
  readonly style?: { readonly sheet: PageStyle; readonly offset: number };
  readonly load?: Load;
  readonly path?: string;
  readonly numbers?: Record<string, number>;
}

/** Builds a finding with its evidence; the id stays the same as long as check, page, target and place do. */
export function finding(input: FindingInput): Finding {
  const { check, subject, element, style, load } = input;
  const { page } = subject;
  let source: SourcePlace | undefined;
  if (element && page.document) {
    source = {
      url: page.document.url,
      line: element.line,
      column: element.column,
      text: lineText(page.document.text, element.line),
    };
  } else if (style) {
    const { line, column } = placeOf(style.sheet.text, style.offset);
    const from = style.sheet.element;
    source = from
      ? {
          url: style.sheet.url,
          line: from.line,
          column: from.column,
          text: lineText(page.document?.text ?? '', from.line),
        }
      : { url: style.sheet.url, line, column, text: lineText(style.sheet.text, line) };
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
    evidence: {
      source,
      element: element && page.document ? elementLabel(page.document, element) : undefined,
      path: element?.path ?? input.path,
      load: load && { index: load.index, url: load.url, status: load.status, bytes: load.headerBytes + load.bodyBytes },
      numbers: input.numbers ?? {},
    },
    title: input.title,
    plain: input.plain,
  };
}

/** Bytes for people: kB and MB of 1000. */
export function bytesText(bytes: number): string {
  if (bytes >= 999_500) return `${(bytes / 1e6).toFixed(1)} MB`;
  if (bytes >= 1000) return `${Math.round(bytes / 1000)} kB`;
  return `${Math.round(bytes)} B`;
}
