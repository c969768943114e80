import type { Concern } from '../checks/concern';
import { statesOf, type SweepComparison } from '../pictures/compare';

/** Parts of a comparison that are lists. */
export const COMPARISON_PARTS = ['pages', 'findings', 'files', 'facts', 'entrances'] as const;
export type ComparisonPart = (typeof COMPARISON_PARTS)[number];

/** Table of one part of a comparison, for export. */
export function comparisonTable(
  found: SweepComparison,
  part: ComparisonPart,
  concern?: Concern,
): { columns: readonly string[]; rows: (string | number | undefined)[][] } {
  const whole = (n: number | undefined) => (n === undefined ? undefined : Math.round(n));
  switch (part) {
    case 'pages':
      return {
        columns: [
          'page',
          'title',
          'hero paint then ms',
          'hero paint now ms',
          'first paint then ms',
          'first paint now ms',
          'bytes then',
          'bytes now',
        ],
        rows: found.pages.map((p) => [
          p.page,
          p.title,
          whole(p.then?.lcpMs),
          whole(p.now?.lcpMs),
          whole(p.then?.fcpMs),
          whole(p.now?.fcpMs),
          p.then?.bytes,
          p.now?.bytes,
        ]),
      };
    case 'findings':
      return {
        columns: ['state', 'concern', 'harm', 'check', 'title', 'pages'],
        rows: statesOf(found)
          .flatMap(({ state, list }) => list.map((c) => ({ state, c })))
          .filter(({ c }) => concern === undefined || c.concern === concern)
          .map(({ state, c }) => [state, c.concern, c.harm, c.check, c.title, c.pages.join(' ')]),
      };
    case 'files':
      return {
        columns: ['address', 'bytes then', 'bytes now', 'pages'],
        rows: found.files.map((f) => [f.url, f.then, f.now, f.pages]),
      };
    case 'facts':
      return {
        columns: ['page', 'fact', 'then', 'now'],
        rows: found.facts.map((f) => [f.page, f.fact, f.then ?? undefined, f.now ?? undefined]),
      };
    case 'entrances':
      return {
        columns: ['address', 'what', 'then', 'now'],
        rows: (found.entrances ?? []).map((e) => [e.from, e.what, e.then, e.now]),
      };
  }
}
