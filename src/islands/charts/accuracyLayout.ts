import { scaleLinear } from 'd3';
import type { AccuracyPoint } from '../../core/plan/accuracy';

/** A measured change against its forecast, both as shares of the base: on the diagonal it is right. */
export interface AccuracyDot {
  readonly x: number;
  readonly y: number;
  readonly point: AccuracyPoint;
}

export interface AccuracyLayout {
  readonly dots: readonly AccuracyDot[];
  readonly ticks: readonly { readonly share: number; readonly x: number; readonly y: number }[];
  /** Ends of the diagonal, and of the lines 10 % of the base beside it. */
  readonly lines: readonly {
    readonly off: number;
    readonly x1: number;
    readonly y1: number;
    readonly x2: number;
    readonly y2: number;
  }[];
}

/** Places points in a square of `size`; what lies beyond the scale stands at its edge. */
export function accuracyLayout(points: readonly AccuracyPoint[], size: number, pad = 36): AccuracyLayout {
  const shares = points.flatMap((p) => [p.measured / p.base, p.forecast / p.base]);
  const low = Math.max(-0.9, Math.min(-0.2, ...shares) - 0.03);
  const high = Math.min(0.6, Math.max(0.2, ...shares) + 0.03);
  const x = scaleLinear([low, high], [pad, size - 8]).clamp(true);
  const y = scaleLinear([low, high], [size - pad, 8]).clamp(true);
  const line = (off: number) => {
    const from = Math.max(low, low - off);
    const to = Math.min(high, high - off);
    return { off, x1: x(from), y1: y(from + off), x2: x(to), y2: y(to + off) };
  };
  return {
    dots: points.map((point) => ({ point, x: x(point.measured / point.base), y: y(point.forecast / point.base) })),
    ticks: x.ticks(6).map((share) => ({ share, x: x(share), y: y(share) })),
    lines: [0, 0.1, -0.1].map(line),
  };
}
