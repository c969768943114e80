import { quantile } from '../../src/core/load/range';
import type { Case, Figure } from './compare';
import { baseErrors, doubt, judge, rankCorrelations } from './judge';

const percent = (share: number) => (Number.isFinite(share) ? `${(100 * share).toFixed(1)} %` : '–');
const count = (pages: number) => (pages === 1 ? '1 page' : `${pages} pages`);
const sorted = (list: readonly number[]) => [...list].sort((a, b) => a - b);

/** What is wanted of pages held back. */
const WANTED = ['wanted', '', '7 %', '20 %', '97 %', '3 %', '0.9', '10 %', '25 %', '80 to 95 %', '25 %', ''];

/** Judged figures of each set of pages: LCP and FCP count alike. */
export function setsTable(cases: readonly Case[]): string {
  return tableOf(cases, [
    ['ours, fitted', (c) => !c.late && !c.held],
    ['ours, held back', (c) => !c.late && c.held],
    ['ours, later', (c) => c.late && !c.outside && !c.held],
    ['ours, later, held back', (c) => c.late && !c.outside && c.held],
    ['of others', (c) => c.outside && !c.held],
    ['of others, held back', (c) => c.outside && c.held],
  ]);
}

/** The same of some pages, one by one and together. */
export function pagesTable(cases: readonly Case[], pages: readonly string[]): string {
  const own = cases.filter((c) => pages.includes(c.page));
  return tableOf(own, [...pages.map((name) => [name, (c: Case) => c.page === name] as const), ['all', () => true]]);
}

/** How many of the wrong directions of others' pages that are not held back are of changes forecast as exactly nothing. */
export function nothingForecast(cases: readonly Case[]): string {
  const figures = cases.filter((c) => c.outside && !c.held).flatMap((c) => [c.lcp, c.fcp]);
  const wrong = figures.filter((f) => Math.abs(f.change) > doubt(f) && Math.sign(f.forecast) !== Math.sign(f.change));
  const nothing = wrong.filter((f) => Math.abs(f.forecast) < 1);
  return `Of the ${wrong.length} wrong directions of pages of others ${nothing.length} are of that kind.`;
}

type Set = readonly [name: string, holds: (c: Case) => boolean];

function tableOf(cases: readonly Case[], sets: readonly Set[]): string {
  const rows = sets.flatMap(([name, of]) => {
    const own = cases.filter(of);
    return own.length > 0 ? [rowOf(name, own)] : [];
  });
  return [
    '| Pages | Cases | Change: median error | 90 % within | Direction right | Change forecast, none measured | Rank | Base: median | 90 % within | Inside the range | Its width | Runs apart |',
    '| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |',
    ...[...rows, WANTED].map((r) => `| ${r.join(' | ')} |`),
  ].join('\n');
}

function rowOf(name: string, own: readonly Case[]): string[] {
  const figures: Figure[] = own.flatMap((c) => [c.lcp, c.fcp]);
  const v = judge(figures);
  const base = sorted((['lcp', 'fcp'] as const).flatMap((m) => baseErrors(own, m).map((e) => Math.abs(e.error))));
  const ranks = rankCorrelations(own);
  const pairs = ranks.reduce((sum, r) => sum + r.pairs, 0);
  return [
    name,
    `${own.length} of ${count(new Set(own.map((c) => c.page)).size)}`,
    percent(v.median),
    percent(v.p90),
    `${percent(v.direction)} of ${v.different}`,
    percent(1 - v.quiet),
    pairs === 0 ? '–' : (ranks.reduce((sum, r) => sum + r.rho * r.pairs, 0) / pairs).toFixed(2),
    percent(quantile(base, 0.5)),
    percent(quantile(base, 0.9)),
    percent(v.inside),
    percent(v.width),
    percent(quantile(sorted(figures.map((f) => f.noise / f.base)), 0.5)),
  ];
}
