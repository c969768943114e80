import { quantile, type Range } from '../load/range';
import { isHeld, type Promised, type Samples } from './proof';

/** One promise that was proved: a figure of one proof. */
export interface ProvedCase {
  readonly figure: 'fcpMs' | 'lcpMs';
  /** Measured without the fixes, in ms. */
  readonly base: number;
  readonly promised: number;
  readonly range: Range;
  readonly measured: number;
  readonly low: number;
  readonly high: number;
}

/** What a site's proofs say of its forecasts. */
export interface OwnTrust {
  /** Proofs; each gives a case for first paint and one for hero paint. */
  readonly proofs: number;
  readonly cases: readonly ProvedCase[];
  /** Median error of changes as a share of the measured base. */
  readonly median: number;
  readonly inside: number;
  /** By how much ranges are made wider or narrower; 1 while there are too few cases. */
  readonly factor: number;
}

/** From so many proofs on they tell something of the site. */
export const LEAST_PROOFS = 5;
/** Such a share of measured changes should lie inside the range. */
const INSIDE = 0.85;
/** However few cases agree, ranges are not narrowed or widened beyond this. */
const BOUNDS = [0.6, 3] as const;

/** The cases of a proof. */
export function casesOf(proof: {
  readonly before: Samples;
  readonly change: Samples;
  readonly forecast: Promised;
}): ProvedCase[] {
  return (['fcpMs', 'lcpMs'] as const).map((figure) => ({
    figure,
    base: proof.before[figure].median,
    promised: proof.forecast.change[figure],
    range: proof.forecast.range[figure],
    measured: proof.change[figure].median,
    low: proof.change[figure].low,
    high: proof.change[figure].high,
  }));
}

/**
 * What proofs say. A case asks for a range as many times as wide as its measured change lies beyond the estimate, less
 * what the measuring itself leaves open; the factor is what most of the cases ask for. The estimate is never shifted.
 */
export function ownTrust(proofs: readonly Parameters<typeof casesOf>[0][]): OwnTrust {
  const cases = proofs.flatMap(casesOf);
  const errors = cases.map((c) => Math.abs(c.promised - c.measured) / Math.max(1, c.base)).sort((a, b) => a - b);
  const wanted = cases.map(widthWanted).sort((a, b) => a - b);
  const [least, most] = BOUNDS;
  const factor = proofs.length < LEAST_PROOFS ? 1 : Math.min(most, Math.max(least, quantile(wanted, INSIDE)));
  return {
    proofs: proofs.length,
    cases,
    median: quantile(errors, 0.5),
    inside: cases.filter((c) => isHeld(c, c.range)).length,
    factor: Math.round(factor * 20) / 20,
  };
}

function widthWanted(c: ProvedCase): number {
  const [low, high] = c.range;
  const off = c.measured - c.promised;
  const open = (c.high - c.low) / 2;
  const beyond = Math.max(0, Math.abs(off) - open);
  const half = off < 0 ? c.promised - low : high - c.promised;
  return beyond === 0 ? 0 : beyond / Math.max(20, half);
}

/** A range made wider or narrower around its estimate. */
export function scaledRange([low, high]: Range, estimate: number, factor: number): Range {
  if (factor === 1) return [low, high];
  return [estimate - (estimate - low) * factor, estimate + (high - estimate) * factor];
}

/** What a bench shows of a forecast, as far as its ranges go. */
interface Ranged {
  readonly after: { readonly lcpMs: number; readonly fcpMs: number };
  readonly range?: { readonly lcpMs: Range; readonly fcpMs: Range };
  readonly groups: readonly { readonly id: string; readonly aloneMs: number; readonly addedMs: number }[];
  readonly groupRanges?: readonly { readonly id: string; readonly alone: Range; readonly added: Range }[];
}

/** A bench's answer with the ranges that the site's proofs ask for; its estimates stay. */
export function withOwnRanges<A extends Ranged>(answer: A, factor: number): A {
  if (factor === 1) return answer;
  const { range, after, groups, groupRanges } = answer;
  return {
    ...answer,
    range: range && {
      ...range,
      lcpMs: scaledRange(range.lcpMs, after.lcpMs, factor),
      fcpMs: scaledRange(range.fcpMs, after.fcpMs, factor),
    },
    groupRanges: groupRanges?.map((g) => {
      const own = groups.find((o) => o.id === g.id);
      return own
        ? { ...g, alone: scaledRange(g.alone, own.aloneMs, factor), added: scaledRange(g.added, own.addedMs, factor) }
        : g;
    }),
  };
}

/** Says what a site's proofs do to its ranges; empty when nothing. */
export function ownRangeText({ factor, proofs }: Pick<OwnTrust, 'factor' | 'proofs'>): string {
  if (factor === 1) return '';
  return `Ranges are ${factor > 1 ? 'wider' : 'narrower'} by ${Math.round(100 * Math.abs(factor - 1))} %: ${proofs} proofs of this site ask for it.`;
}
