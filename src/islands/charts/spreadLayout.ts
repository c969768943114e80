import { scaleBand, scaleSqrt } from 'd3';

/** One bar of a spread. */
export interface SpreadBar {
  readonly value: string;
  readonly label: string;
  readonly pages: number;
  readonly x: number;
  readonly width: number;
  readonly y: number;
  readonly height: number;
}

/**
 * Bars for pages by value. Heights grow with the square root, so that one missing page beside ten thousand
 * others is still to be seen; what has pages is at least 2 high.
 */
export function spreadBars(
  slices: readonly { readonly value: string; readonly label: string; readonly pages: number }[],
  width: number,
  height: number,
): SpreadBar[] {
  const x = scaleBand(
    slices.map((s) => s.value),
    [0, width],
  ).paddingInner(0.18);
  const y = scaleSqrt([0, Math.max(1, ...slices.map((s) => s.pages))], [0, height]);
  return slices.map((s) => {
    const h = s.pages === 0 ? 0 : Math.max(2, y(s.pages));
    return { ...s, x: x(s.value) ?? 0, width: x.bandwidth(), y: height - h, height: h };
  });
}
