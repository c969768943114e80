import { quantile, type Range } from '../load/range';

/** A proof: the same page loaded by a real browser without and with fixes, and what that says of their forecast. */

/** What one visit measured. Times in ms since the navigation; -1 where the page never came so far. */
export interface Visited {
  readonly fcpMs: number;
  readonly lcpMs: number;
  readonly loadMs: number;
  readonly cls: number;
  /** Transferred, headers and bodies. */
  readonly bytes: number;
}

/** Figures that are measured. */
export const FIGURES = ['fcpMs', 'lcpMs', 'loadMs', 'cls', 'bytes'] as const;
export type FigureName = (typeof FIGURES)[number];

/** The middle of some runs, and the ends of a 90 % interval of that middle. */
export interface Sample {
  readonly median: number;
  readonly low: number;
  readonly high: number;
  readonly values: readonly number[];
}

export type Samples = Readonly<Record<FigureName, Sample>>;

/** Resampled so often, with the same seed every time: the same runs give the same interval. */
const DRAWS = 1000;
const CONFIDENCE = 0.9;

/** The figures of runs: medians, with bootstrap intervals (Efron 1979). */
export function samplesOfRuns(runs: readonly Visited[]): Samples {
  return mapFigures((name) => {
    const values = runs.map((r) => r[name]);
    const chance = chanceOf(values);
    return sample(values, median(values), () => median(resample(values, chance)), name);
  });
}

/** The change from some runs to others: the difference of their medians. `values` are differences run by run, in turn. */
export function changeOfRuns(before: readonly Visited[], after: readonly Visited[]): Samples {
  return mapFigures((name) => {
    const a = before.map((r) => r[name]);
    const b = after.map((r) => r[name]);
    const chance = chanceOf([...a, ...b]);
    const values = b.slice(0, a.length).map((v, i) => v - (a[i] as number));
    return sample(values, median(b) - median(a), () => median(resample(b, chance)) - median(resample(a, chance)), name);
  });
}

function sample(values: readonly number[], middle: number, draw: () => number, name: FigureName): Sample {
  const round = (n: number) => (name === 'cls' ? Math.round(n * 10_000) / 10_000 : Math.round(n * 10) / 10);
  if (values.length === 0) return { median: 0, low: 0, high: 0, values: [] };
  const draws = Array.from({ length: DRAWS }, draw).sort((x, y) => x - y);
  return {
    median: round(middle),
    low: round(Math.min(middle, quantile(draws, (1 - CONFIDENCE) / 2))),
    high: round(Math.max(middle, quantile(draws, 1 - (1 - CONFIDENCE) / 2))),
    values: values.map(round),
  };
}

/** Fewest and most runs of each side; where nothing is said so many are planned. */
export const RUNS = { least: 3, planned: 5, most: 15 };

/** Below this a difference is none: 40 ms, or 3 % of what it is a change of. */
const fine = (base: number) => Math.max(40, 0.03 * base);
/** A change whose interval is wider than this to either side says too little. */
const coarse = (base: number) => Math.max(80, 0.08 * base);

/** Whether more runs would tell no more: they lie close together, or are as many as planned and lie not too far apart. */
export function saysEnough(before: readonly Visited[], after: readonly Visited[]): boolean {
  const n = Math.min(before.length, after.length);
  if (n < RUNS.least) return false;
  const change = changeOfRuns(before, after);
  const limit = n < RUNS.planned ? fine : coarse;
  return (['fcpMs', 'lcpMs'] as const).every((name) => {
    const { low, high } = change[name];
    return (high - low) / 2 <= limit(median(before.map((r) => r[name])));
  });
}

/** What a forecast promised of a page's fixes. */
export interface Promised {
  readonly change: { readonly fcpMs: number; readonly lcpMs: number; readonly loadMs: number; readonly bytes: number };
  readonly range: { readonly fcpMs: Range; readonly lcpMs: Range; readonly loadMs: Range };
}

/** Whether a promise was kept: the measured interval and the forecast range have a value in common. */
export const isHeld = (measured: Pick<Sample, 'low' | 'high'>, [low, high]: Range): boolean =>
  measured.low <= high && measured.high >= low;

/** Whether each promise was kept. */
export function heldOf(change: Samples, { range }: Pick<Promised, 'range'>): Held {
  return {
    fcpMs: isHeld(change.fcpMs, range.fcpMs),
    lcpMs: isHeld(change.lcpMs, range.lcpMs),
    loadMs: isHeld(change.loadMs, range.loadMs),
  };
}

export interface Held {
  readonly fcpMs: boolean;
  readonly lcpMs: boolean;
  readonly loadMs: boolean;
}

/** A measured load that failed to come this far is left out of the middle by its caller; this is the middle of the rest. */
function median(list: readonly number[]): number {
  return quantile(
    [...list].sort((a, b) => a - b),
    0.5,
  );
}

const mapFigures = (make: (name: FigureName) => Sample): Samples =>
  Object.fromEntries(FIGURES.map((name) => [name, make(name)])) as unknown as Samples;

const resample = (list: readonly number[], chance: () => number) =>
  list.map(() => list[Math.floor(chance() * list.length)] as number);

/** A generator that is seeded by what it draws from (mulberry32). */
function chanceOf(values: readonly number[]): () => number {
  let state = values.reduce((sum, v) => (Math.imul(sum, 31) + Math.round(v * 100)) | 0, values.length + 1);
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}
