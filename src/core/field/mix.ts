import type { Link } from '../load/graph';
import type { Range } from '../load/range';

/** The middling visitor of a mix, and how far the others lie from it. */
export interface Mix {
  readonly rttMs: number;
  readonly downKbps: number;
  readonly cpuFactor: number;
  /** The slow one has so many times the round trip and processor factor, and the rate divided by it; the fast one the reverse. */
  readonly spread: number;
}

/** Shares of the three. */
export const WEIGHTS = [0.3, 0.4, 0.3] as const;
/** Metrics that a load has and a model can be held to. */
export const FITTED = ['ttfbMs', 'fcpMs', 'lcpMs'] as const;
export type FittedMetric = (typeof FITTED)[number];

/** What is searched for. */
export const KNOBS = ['rttMs', 'downKbps', 'cpuFactor', 'spread'] as const;
export type Knob = (typeof KNOBS)[number];

/** A fitted mix, how well it fits, and what the data cannot tell. */
export interface Fitted {
  readonly mix: Mix;
  /** One visitor whose loads come to the p75s themselves. */
  readonly p75Visitor: Pick<Mix, 'rttMs' | 'downKbps' | 'cpuFactor'>;
  /** Typical error of a p75, as a share. */
  readonly error: number;
  /** Values with which the data fits about as well: a wide span is not told by it. */
  readonly spans: Readonly<Record<Knob, Range>>;
  readonly pages: readonly {
    readonly page: string;
    readonly metrics: readonly { readonly metric: FittedMetric; readonly field: number; readonly model: number }[];
  }[];
}

/** Values that fit about as well lie within this factor where the data tells a value. */
const TOLD_WITHIN = 1.4;

/** True where the data tells a value: those that fit about as well lie close together. */
export const isTold = ([low, high]: Range): boolean => high / low <= TOLD_WITHIN;

/** Links of the three visitors of a mix; `cpuFactor` counts as in visitors. */
export function linksOf({ rttMs, downKbps, cpuFactor, spread }: Mix): readonly Link[] {
  return [1 / spread, 1, spread].map((f) => ({
    rttMs: rttMs * f,
    downKbps: downKbps / f,
    upKbps: downKbps / f / 2.5,
    cpuFactor: cpuFactor * f,
  }));
}

/** A p75 before and after fixes, with the range in which the second most probably lies. */
export interface P75Change {
  readonly beforeMs: number;
  readonly afterMs: number;
  readonly range: Range;
}
