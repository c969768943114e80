import { scaleLinear } from 'd3';
import type { Range } from '../../core/load/range';

/** One figure: what was promised and what was measured, as changes in ms. */
export interface ScaleRow {
  readonly name: string;
  readonly promised: number;
  readonly range: Range;
  readonly measured: number;
  readonly interval: Range;
  readonly values: readonly number[];
}

export interface LaidScale {
  readonly zero: number;
  readonly ticks: readonly { readonly x: number; readonly ms: number }[];
  readonly rows: readonly {
    readonly name: string;
    readonly y: number;
    readonly promised: number;
    readonly range: Range;
    readonly measured: number;
    readonly interval: Range;
    readonly dots: readonly number[];
  }[];
}

export const SCALE_ROW = 46;
const MARGIN = 12;

/** Promises and measurements of all figures on one scale of ms, in points. */
export function proofScale(rows: readonly ScaleRow[], left: number, width: number): LaidScale {
  const all = rows.flatMap((r) => [...r.range, ...r.interval, ...r.values, r.promised, r.measured, 0]);
  const x = scaleLinear([Math.min(...all, -50), Math.max(...all, 50)], [left + MARGIN, width - MARGIN]).nice();
  const span = ([low, high]: Range): Range => [x(low), x(high)];
  return {
    zero: x(0),
    ticks: x.ticks(Math.max(3, Math.floor((width - left) / 110))).map((ms) => ({ x: x(ms), ms })),
    rows: rows.map((r, i) => ({
      name: r.name,
      y: 30 + i * SCALE_ROW,
      promised: x(r.promised),
      range: span(r.range),
      measured: x(r.measured),
      interval: span(r.interval),
      dots: r.values.map((v) => x(v)),
    })),
  };
}
