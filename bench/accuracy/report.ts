import { FIX_KINDS } from '../../src/core/fixes';
import { quantile } from '../../src/core/load/range';
import type { AccuracyPoint, AccuracyReport, AccuracyRow } from '../../src/core/plan/accuracy';
import type { Case, Figure, Judged } from './compare';
import { baseErrors, doubt, judge, rankCorrelations, type Verdict } from './judge';
import { LINKS, linkName } from './site';
import { WHY } from './why';

const percent = (share: number, digits = 1) => `${(100 * share).toFixed(digits)} %`;
const middle = (list: readonly number[]) =>
  quantile(
    [...list].sort((a, b) => a - b),
    0.5,
  );

/** Puts together what `docs/accuracy.md` and the application show. */
export function reportOf(pages: readonly Judged[], cases: readonly Case[]): AccuracyReport {
  const fitted = cases.filter((c) => !c.held);
  const held = cases.filter((c) => c.held);
  const runs = pages.reduce(
    (sum, p) => sum + p.truth.variants.reduce((n, v) => n + Object.values(v.links).reduce((k, s) => k + s.runs, 0), 0),
    0,
  );
  return {
    measuredOn:
      pages
        .map((p) => p.truth.measuredOn)
        .sort()
        .at(-1) ?? '',
    browser: [...new Set(pages.map((p) => p.truth.browser))].sort().join(' and '),
    pages: pages.length,
    heldPages: pages.filter((p) => p.held).length,
    others: othersOf(cases),
    variants: pages.reduce((n, p) => n + p.truth.variants.length - 1, 0),
    runs,
    links: LINKS.map((l) => ({
      id: l.id,
      name: linkName(l),
    })),
    rows: rowsOf(fitted, held),
    kinds: kindsOf(cases),
    points: cases.map((c) => pointOf(c, 'LCP')),
    worst: worstOf(cases),
  };
}

function othersOf(cases: readonly Case[]): AccuracyReport['others'] {
  const own = cases.filter((c) => c.outside);
  const { median, p90 } = judge(own.flatMap((c) => [c.lcp, c.fcp]));
  return { pages: new Set(own.map((c) => c.page)).size, median, p90 };
}

function rowsOf(fitted: readonly Case[], held: readonly Case[]): AccuracyRow[] {
  const row = (
    name: string,
    target: string,
    of: (cases: readonly Case[]) => number,
    good: (value: number) => boolean,
    text: (value: number) => string = percent,
  ): AccuracyRow => {
    const [a, b] = [of(fitted), of(held)];
    return { name, target, fitted: text(a), held: text(b), ok: good(a) && good(b) };
  };
  const verdict =
    (metric: 'fcp' | 'lcp', pick: (v: Verdict) => number, only?: (c: Case) => boolean) => (cases: readonly Case[]) =>
      pick(judge(cases.filter((c) => only?.(c) ?? true).map((c) => c[metric])));
  const both = (pick: (v: Verdict) => number) => (cases: readonly Case[]) =>
    pick(judge(cases.flatMap((c) => [c.fcp, c.lcp])));
  const base = (metric: 'fcp' | 'lcp') => (cases: readonly Case[]) =>
    middle(baseErrors(cases, metric).map((e) => Math.abs(e.error)));
  const least = (limit: number) => (v: number) => v >= limit;
  const most = (limit: number) => (v: number) => v <= limit;
  return [
    row(
      'Change of hero paint (LCP): median error',
      'at most 10 % of the base',
      verdict('lcp', (v) => v.median),
      most(0.1),
    ),
    row(
      'Change of hero paint: errors of at most 25 %',
      'at least 90 %',
      verdict('lcp', (v) => v.within25),
      least(0.9),
    ),
    row(
      'Change of first paint (FCP): median error',
      'at most 10 % of the base',
      verdict('fcp', (v) => v.median),
      most(0.1),
    ),
    row(
      'Change of first paint: errors of at most 25 %',
      'at least 90 %',
      verdict('fcp', (v) => v.within25),
      least(0.9),
    ),
    row('Hero paint simulated without fixes: median error', 'at most 15 %', base('lcp'), most(0.15)),
    row('First paint simulated without fixes: median error', 'at most 15 %', base('fcp'), most(0.15)),
    row(
      'Right direction where the measured change exceeds 100 ms and the noise',
      'always',
      both((v) => v.sign),
      least(1),
    ),
    row(
      'No change forecast where none was measured',
      'always',
      both((v) => v.quiet),
      least(1),
    ),
    row(
      'Order of a page’s fixes: rank correlation where measurements tell them apart',
      'at least 0.9',
      (cases) => {
        const list = rankCorrelations(cases);
        const pairs = list.reduce((sum, r) => sum + r.pairs, 0);
        return list.reduce((sum, r) => sum + r.rho * r.pairs, 0) / Math.max(1, pairs);
      },
      least(0.9),
      (v) => v.toFixed(2),
    ),
    row(
      'Measured change inside the range',
      'at least 80 %',
      both((v) => v.inside),
      least(0.8),
    ),
    row(
      'Width of the range, median',
      'at most 40 % of the base',
      both((v) => v.width),
      most(0.4),
    ),
    row(
      'Combined fixes: median error of hero paint',
      'as single ones (at most 10 %)',
      verdict(
        'lcp',
        (v) => v.median,
        (c) => c.combined,
      ),
      most(0.1),
    ),
  ];
}

function kindsOf(cases: readonly Case[]): AccuracyReport['kinds'] {
  const error = (c: Case) => Math.abs(c.lcp.forecast - c.lcp.change) / c.lcp.base;
  const cell = (own: readonly Case[]) => ({
    cases: own.length,
    median: middle(own.map(error)),
    worst: Math.max(0, ...own.map(error)),
  });
  const row = (kind: string, title: string, own: readonly Case[]) => ({
    kind,
    title,
    cells: Object.fromEntries(LINKS.map((l) => [l.id, cell(own.filter((c) => c.link === l.id))])),
  });
  return [
    ...FIX_KINDS.flatMap((k) => {
      const own = cases.filter((c) => !c.combined && c.kinds[0] === k.id);
      return own.length > 0 ? [row(k.id, k.title, own)] : [];
    }),
    row(
      'combined',
      'Several fixes together',
      cases.filter((c) => c.combined),
    ),
  ];
}

function pointOf(c: Case, metric: 'FCP' | 'LCP'): AccuracyPoint {
  const f = metric === 'LCP' ? c.lcp : c.fcp;
  const [low, high] = f.range ?? [f.forecast, f.forecast];
  return {
    page: c.page,
    variant: c.variant,
    link: c.link,
    held: c.held,
    metric,
    base: Math.round(f.base),
    measured: Math.round(f.change),
    forecast: Math.round(f.forecast),
    low: Math.round(low),
    high: Math.round(high),
  };
}

/** The ten largest errors of both metrics, with why as far as it was found out. */
function worstOf(cases: readonly Case[]): AccuracyReport['worst'] {
  return cases
    .flatMap((c) => (['LCP', 'FCP'] as const).map((metric) => ({ c, metric, f: metric === 'LCP' ? c.lcp : c.fcp })))
    .map((x) => ({ ...x, error: Math.abs(x.f.forecast - x.f.change) / x.f.base }))
    .sort((a, b) => b.error - a.error)
    .slice(0, 10)
    .map(({ c, metric, f, error }) => ({
      ...pointOf(c, metric),
      error: Math.round(error * 1000) / 1000,
      why: WHY[`${c.page} ${c.link} ${c.variant} ${metric}`] ?? WHY[`${c.page} ${c.link} ${metric}`] ?? figuresTell(f),
    }));
}

/** What the figures themselves tell where nobody looked further. */
function figuresTell(f: Figure): string {
  if (f.noise > 0.5 * Math.abs(f.forecast - f.change))
    return `the runs themselves lie ± ${Math.round(f.noise)} ms apart`;
  const off = f.forecastBase - f.base;
  if (Math.abs(off) > 0.15 * f.base)
    return `the page as it is is simulated ${Math.round(Math.abs(off))} ms too ${off > 0 ? 'late' : 'early'}: what it waits for now is wrong already`;
  return `not found out; what counts as a difference here is ${Math.round(doubt(f))} ms`;
}
