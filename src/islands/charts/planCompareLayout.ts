import { max, scaleLinear, type ScaleLinear } from 'd3';

/** A plan to compare: where it leads and how sure that is. */
export interface ComparedPlan {
  readonly key: string;
  readonly name: string;
  readonly nowMs: number;
  readonly afterMs: number;
  readonly range: readonly [number, number];
  /** Minutes. */
  readonly effort: number;
}

/** One row of the comparison to draw. */
export interface ComparedMark {
  readonly key: string;
  readonly y: number;
  readonly now: number;
  readonly after: number;
  readonly low: number;
  readonly high: number;
}

export interface CompareLayout {
  readonly x: ScaleLinear<number, number>;
  readonly ticks: readonly number[];
  readonly marks: readonly ComparedMark[];
  readonly height: number;
}

/** Height of a row, and of the axis. */
export const COMPARE_ROW = 34;
const AXIS = 22;

/** Places plans on one axis of hero paint; a pure function of the data and the width. */
export function planCompareLayout(plans: readonly ComparedPlan[], width: number, left = 150): CompareLayout {
  const most = max(plans, (p) => Math.max(p.nowMs, p.range[1])) ?? 1000;
  const x = scaleLinear([0, most * 1.04], [left, width - 24]).nice();
  return {
    x,
    ticks: x.ticks(6),
    height: plans.length * COMPARE_ROW + AXIS,
    marks: plans.map((p, i) => ({
      key: p.key,
      y: i * COMPARE_ROW + COMPARE_ROW / 2,
      now: x(p.nowMs),
      after: x(p.afterMs),
      low: x(p.range[0]),
      high: x(p.range[1]),
    })),
  };
}
