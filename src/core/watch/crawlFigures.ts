import type { Ranged } from './figures';

/** Figures of what a sweep visited without a browser: facts of pages, counted; the response time in ms, on average. */
export const CRAWL_FIGURES = [
  'brokenPages',
  'missingLinks',
  'redirectedLinks',
  'httpMentions',
  'noindexPages',
  'canonicalElsewhere',
  'answerMs',
] as const;
export type CrawlFigure = (typeof CRAWL_FIGURES)[number];

/** What a sweep knows of one page that it visited; counts are 0 or 1 where a page has the fact or not. */
export interface CrawledPage extends Readonly<Record<Exclude<CrawlFigure, 'answerMs'>, number>> {
  readonly page: string;
  readonly template?: string;
  readonly answerMs?: number;
}

export const isCrawlFigure = (figure: string): figure is CrawlFigure =>
  (CRAWL_FIGURES as readonly string[]).includes(figure);

/** A figure over pages; undefined without any, and for a response time where none was measured. */
export function crawlValue(pages: readonly CrawledPage[], figure: CrawlFigure): Ranged | undefined {
  if (pages.length === 0) return undefined;
  if (figure !== 'answerMs') return { value: pages.reduce((sum, p) => sum + p[figure], 0) };
  const times = pages.flatMap((p) => p.answerMs ?? []);
  return times.length === 0 ? undefined : { value: Math.round(times.reduce((sum, t) => sum + t, 0) / times.length) };
}
