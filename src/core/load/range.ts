import { unit, type Perturbation } from './browser';

/** How many perturbed simulations a range is made of. */
export const DRAWS = 24;

/** Seeded perturbations: round trip, rate, processor, server wait and order of arrivals. */
export const PERTURBATIONS: readonly Perturbation[] = Array.from({ length: DRAWS }, (_, i) => {
  const around = (k: number, spread: number) => Math.exp((unit(i + 1, k) * 2 - 1) * spread);
  return { rtt: around(1, 0.2), rate: around(2, 0.2), cpu: around(3, 0.25), server: around(4, 0.3), seed: i + 1 };
});

/**
 * What the model itself misses beside its inputs, as a share of the time before the fix: calibrated on the truth set so
 * that most measured changes lie inside (docs/accuracy.md).
 */
export const MODEL_ERROR = {
  share: 0.07,
  /** For a recording that is simulated off by more than this under its own conditions, so much more a part of it. */
  gap: 0.1,
  perGap: 0.3,
  most: 0.25,
};

/**
 * The model's error for a page.
 * @param gap by which share its recording is simulated off under its own conditions
 * @param spread by which share the paints of its runs lie apart; half of that is what one of them may be off
 */
export function modelErrorShare(gap: number | undefined, spread = 0): number {
  const { share, gap: free, perGap, most } = MODEL_ERROR;
  return Math.min(most, share + perGap * Math.max(0, Math.max(Math.abs(gap ?? 0), spread / 2) - free));
}

/**
 * Changes of all draws with the model's own error added, seeded; `pages` are averaged over, and with them their errors.
 * @param share as `modelErrorShare` gives it
 */
export function withModelError(
  changes: readonly number[],
  beforeMs: number,
  pages = 1,
  share = MODEL_ERROR.share,
): number[] {
  const most = (share * beforeMs) / Math.sqrt(Math.max(1, pages));
  return changes.map((c, i) => c + most * (2 * unit(PERTURBATIONS.length + 1, i) - 1));
}

/** Lower and upper end. */
export type Range = readonly [number, number];

/** The 10th to the 90th percentile of values, by linear interpolation. */
export function middleRange(values: readonly number[]): Range {
  const sorted = [...values].sort((a, b) => a - b);
  return [quantile(sorted, 0.1), quantile(sorted, 0.9)];
}

/** A quantile of sorted values; 0 for none. */
export function quantile(sorted: readonly number[], q: number): number {
  if (sorted.length === 0) return 0;
  const at = (sorted.length - 1) * q;
  const low = Math.floor(at);
  const a = sorted[low] ?? 0;
  return a + ((sorted[low + 1] ?? a) - a) * (at - low);
}
