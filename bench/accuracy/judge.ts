import { quantile } from '../../src/core/load/range';
import type { Case, Figure } from './compare';

/** Figures by which forecasts are judged. Errors are shares of the measured base. */
export interface Verdict {
  readonly cases: number;
  readonly median: number;
  readonly p90: number;
  /** Share of errors of at most 25 %. */
  readonly within25: number;
  /** Where something changed by more than 100 ms and the noise: share with the right sign. */
  readonly sign: number;
  readonly clear: number;
  /** Where something changed beyond doubt (`doubt`): share with the right sign. */
  readonly direction: number;
  readonly different: number;
  /** Where nothing changed: share for which about nothing was forecast. */
  readonly quiet: number;
  readonly still: number;
  readonly inside: number;
  readonly width: number;
}

/** Below this a difference is none, in ms: it has to exceed 40 ms, 8 % of the base and the noise of the runs. */
export const doubt = (f: Figure) => Math.max(40, 0.08 * f.base, f.noise);

export function judge(figures: readonly Figure[]): Verdict {
  const errors = figures.map((f) => Math.abs(f.forecast - f.change) / f.base).sort((a, b) => a - b);
  const clear = figures.filter((f) => Math.abs(f.change) > Math.max(100, f.noise));
  const different = figures.filter((f) => Math.abs(f.change) > doubt(f));
  const still = figures.filter((f) => Math.abs(f.change) <= doubt(f));
  const ranged = figures.filter((f) => f.range);
  const inside = ranged.filter((f) => {
    const [low, high] = f.range ?? [0, 0];
    return f.change >= low - f.noise && f.change <= high + f.noise;
  });
  const widths = ranged.map((f) => ((f.range?.[1] ?? 0) - (f.range?.[0] ?? 0)) / f.base).sort((a, b) => a - b);
  const share = (n: number, of: number) => (of === 0 ? 1 : n / of);
  const rightOf = (list: readonly Figure[]) =>
    share(list.filter((f) => Math.sign(f.forecast) === Math.sign(f.change)).length, list.length);
  return {
    cases: figures.length,
    median: quantile(errors, 0.5),
    p90: quantile(errors, 0.9),
    within25: share(errors.filter((e) => e <= 0.25).length, errors.length),
    sign: rightOf(clear),
    clear: clear.length,
    direction: rightOf(different),
    different: different.length,
    quiet: share(still.filter((f) => Math.abs(f.forecast) <= 1.5 * doubt(f)).length, still.length),
    still: still.length,
    inside: share(inside.length, ranged.length),
    width: quantile(widths, 0.5),
  };
}

/** Errors of simulated bases, one for each page and link, as shares of the measured one; signed. */
export function baseErrors(cases: readonly Case[], metric: 'fcp' | 'lcp'): { key: string; error: number }[] {
  const seen = new Map<string, number>();
  for (const c of cases) {
    const f = c[metric];
    seen.set(`${c.page} ${c.link}`, (f.forecastBase - f.base) / f.base);
  }
  return [...seen].map(([key, error]) => ({ key, error }));
}

/**
 * Rank correlation (Kendall) of measured and forecast changes of hero paint, for each page and link, over the pairs of
 * fixes that differ beyond doubt: what lies within the noise has no order that could be right or wrong.
 */
export function rankCorrelations(cases: readonly Case[]): { key: string; rho: number; pairs: number }[] {
  const groups = new Map<string, Case[]>();
  for (const c of cases) {
    const key = `${c.page} ${c.link}`;
    groups.set(key, [...(groups.get(key) ?? []), c]);
  }
  return [...groups].flatMap(([key, own]) => {
    let sum = 0;
    let pairs = 0;
    own.forEach(({ lcp: a }, i) => {
      for (const { lcp: b } of own.slice(i + 1)) {
        const measured = a.change - b.change;
        if (Math.abs(measured) <= Math.max(doubt(a), doubt(b))) continue;
        pairs++;
        const forecast = a.forecast - b.forecast;
        // Two that are forecast alike are neither in order nor out of it.
        if (Math.abs(forecast) >= 1) sum += Math.sign(measured) === Math.sign(forecast) ? 1 : -1;
      }
    });
    return pairs === 0 ? [] : [{ key, rho: sum / pairs, pairs }];
  });
}
