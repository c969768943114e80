import { quantile, PERTURBATIONS, type Range } from '../load/range';
import type { Link, LoadGraph } from '../load/graph';
import type { Perturbation } from '../load/browser';
import { simulate } from '../load/simulate';
import { THRESHOLDS, type FieldRow } from './fieldData';
import {
  FITTED,
  KNOBS,
  linksOf,
  WEIGHTS,
  type Fitted,
  type FittedMetric,
  type Knob,
  type Mix,
  type P75Change,
} from './mix';

/**
 * Visitors fitted to field data: a mix of three (fast, middling, slow) whose p75s over the site's pages are those that
 * real visits came to. Round trip, rate and processor of the middling one are searched for; the other two lie a factor to
 * either side.
 */

/** Spread where the data does not tell it: no shares are known. */
export const USUAL_SPREAD = 1.6;

/** How visits of one and the same visitor are spread, as the standard deviation of the logarithm. */
const SIGMA = 0.12;

/** A page of the site with what real visits to it came to. */
export interface FieldPage {
  readonly page: string;
  readonly graph: LoadGraph;
  readonly row: FieldRow;
}

/** Where a value may lie. */
const BOUNDS: Readonly<Record<Knob, Range>> = {
  rttMs: [5, 800],
  downKbps: [150, 200_000],
  cpuFactor: [0.4, 16],
  spread: [1, 4],
};

const milestone = (graph: LoadGraph, link: Link, metric: FittedMetric, perturb?: Perturbation) =>
  simulate(graph, link, perturb).milestones[metric];

/** The quantile of a mixture of log-normals with these medians and weights. */
export function mixQuantile(medians: readonly number[], weights: readonly number[], q: number): number {
  const logs = medians.map((m) => Math.log(Math.max(m, 1)));
  const total = weights.reduce((a, b) => a + b, 0);
  let [low, high] = [Math.min(...logs) - 4 * SIGMA, Math.max(...logs) + 4 * SIGMA];
  for (let i = 0; i < 40; i++) {
    const x = (low + high) / 2;
    const below = logs.reduce((sum, m, k) => sum + ((weights[k] ?? 0) / total) * normal((x - m) / SIGMA), 0);
    if (below < q) low = x;
    else high = x;
  }
  return Math.exp((low + high) / 2);
}

/** The share of a mixture below a value. */
function shareBelow(medians: readonly number[], weights: readonly number[], value: number): number {
  return medians.reduce(
    (sum, m, k) => sum + (weights[k] ?? 0) * normal((Math.log(value) - Math.log(Math.max(m, 1))) / SIGMA),
    0,
  );
}

/** Standard normal distribution (Abramowitz and Stegun, 26.2.17: within 1e-7). */
function normal(x: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(x));
  const p =
    (Math.exp((-x * x) / 2) / Math.sqrt(2 * Math.PI)) *
    t *
    (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return x >= 0 ? 1 - p : p;
}

/** Fits a mix to pages with field data. Simulates some thousand loads: takes seconds. */
export function fitMix(pages: readonly FieldPage[]): Fitted {
  const known = sharesKnown(pages);
  const free: readonly Knob[] = known ? KNOBS : KNOBS.filter((k) => k !== 'spread');
  // From more than one start: the way downhill may end in a hollow.
  const ends = startsOf(pages, known ? [1.3, USUAL_SPREAD, 2.2] : [USUAL_SPREAD]).map((start) =>
    refine(pages, start, free, [0.5, 0.25]),
  );
  const [nearest] = ends.sort((a, b) => a.loss - b.loss);
  const { mix, loss: best } = refine(pages, (nearest as Tried).mix, free, [0.12, 0.06, 0.03]);
  const alike = known ? [] : otherSpreads(pages, mix, best);
  return {
    mix,
    p75Visitor: p75VisitorOf(pages, mix),
    error: Math.sqrt(best),
    spans: Object.fromEntries(
      KNOBS.map((k) => [k, free.includes(k) ? widened(spanOf(pages, mix, k, best, free), alike, k) : BOUNDS[k]]),
    ) as Fitted['spans'],
    pages: pages.map((p) => ({
      page: p.page,
      metrics: metricsOf(p).map(([metric, field]) => ({ metric, field, model: modelP75(p.graph, mix, metric) })),
    })),
  };
}

/** Between the middling and the slow visitor: the one whose loads come nearest to the p75s. */
function p75VisitorOf(pages: readonly FieldPage[], mix: Mix): Fitted['p75Visitor'] {
  const at = (f: number): Mix => ({
    rttMs: mix.rttMs * f,
    downKbps: mix.downKbps / f,
    cpuFactor: mix.cpuFactor * f,
    spread: 1,
  });
  const factors = Array.from({ length: 13 }, (_, i) => mix.spread ** (i / 10));
  const losses = factors.map((f) => lossOf(pages, at(f), false));
  const { rttMs, downKbps, cpuFactor } = at(factors[losses.indexOf(Math.min(...losses))] as number);
  return { rttMs, downKbps, cpuFactor };
}

const sharesKnown = (pages: readonly FieldPage[]) => pages.some((p) => FITTED.some((m) => p.row.shares[m]));

const metricsOf = ({ row }: FieldPage): [FittedMetric, number][] =>
  FITTED.flatMap((m): [FittedMetric, number][] => (row.p75[m] ? [[m, row.p75[m]]] : []));

const modelP75 = (graph: LoadGraph, mix: Mix, metric: FittedMetric) =>
  mixQuantile(
    linksOf(mix).map((l) => milestone(graph, l, metric)),
    WEIGHTS,
    0.75,
  );

/** From this error on a figure counts less: one page that does not fit, for a reason of its own, must not bend the rest. */
const ODD = 0.1;

/** Mean squared error of p75s, as squares of shares; shares of good and poor visits count as well where they are known. */
function lossOf(pages: readonly FieldPage[], mix: Mix, withShares = true): number {
  const links = linksOf(mix);
  let sum = 0;
  let n = 0;
  for (const page of pages) {
    const replays = links.map((l) => simulate(page.graph, l).milestones);
    for (const [metric, field] of metricsOf(page)) {
      const medians = replays.map((m) => m[metric]);
      const error = Math.abs(Math.log(mixQuantile(medians, WEIGHTS, 0.75) / field));
      sum += error <= ODD ? error * error : ODD * (2 * error - ODD);
      n++;
      const share = withShares ? page.row.shares[metric] : undefined;
      if (!share) continue;
      const [good, poor] = THRESHOLDS[metric];
      for (const [bound, below] of [
        [good, share.good],
        [poor, 1 - share.poor],
      ] as const) {
        const off = shareBelow(medians, WEIGHTS, bound) - below;
        sum += 0.5 * off * off;
        n += 0.5;
      }
    }
  }
  return n === 0 ? 0 : sum / n;
}

/** The best places of a coarse grid, one for each spread and the best of all besides. */
function startsOf(pages: readonly FieldPage[], spreads: readonly number[]): Mix[] {
  const grid = spreads.flatMap((spread) =>
    [30, 90, 250].flatMap((rttMs) =>
      [1200, 6000, 30_000].flatMap((downKbps) =>
        [1.2, 4].map((cpuFactor) => {
          const mix = { rttMs, downKbps, cpuFactor, spread };
          return { mix, loss: lossOf(pages, mix) };
        }),
      ),
    ),
  );
  grid.sort((a, b) => a.loss - b.loss);
  const chosen = new Set([...grid.slice(0, 2), ...spreads.flatMap((s) => grid.find((g) => g.mix.spread === s) ?? [])]);
  return [...chosen].map((g) => g.mix);
}

/** Knobs that are turned at once, each up or down. */
type Way = readonly (readonly [knob: Knob, sign: number])[];

/** Ways to turn knobs: each by itself; then two at once, since a fast processor makes up for a slow link. */
function waysOf(free: readonly Knob[]): readonly (readonly Way[])[] {
  const single = free.flatMap((k): Way[] => [[[k, 1]], [[k, -1]]]);
  const pairs = free.flatMap((a, i) =>
    free
      .slice(i + 1)
      .flatMap((b) => [-1, 1].flatMap((s) => [-1, 1].map((t): Way => [[a, s] as const, [b, t] as const]))),
  );
  return [single, pairs];
}

/** A mix and how far its p75s are from those of the field. */
interface Tried {
  readonly mix: Mix;
  readonly loss: number;
}

/**
 * Goes downhill in steps (of the logarithm) that become smaller; two knobs are turned at once where none by itself helps.
 * @param enough the way ends where the loss is no more than this
 */
function refine(
  pages: readonly FieldPage[],
  from: Mix,
  free: readonly Knob[],
  steps: readonly number[],
  enough = 0,
): Tried {
  const ways = waysOf(free);
  let mix = from;
  let loss = lossOf(pages, mix);
  /** Tries all ways once: true when one led downhill. */
  const round = (some: readonly Way[], step: number) => {
    let moved = false;
    for (const way of some) {
      if (loss <= enough) return false;
      const next: Record<Knob, number> = { ...mix };
      for (const [knob, sign] of way) next[knob] = within(knob, mix[knob] * Math.exp(sign * step));
      if (KNOBS.every((k) => next[k] === mix[k])) continue;
      const there = lossOf(pages, next);
      if (there >= loss - 1e-9) continue;
      [mix, loss, moved] = [next, there, true];
    }
    return moved;
  };
  for (const step of steps) for (let n = 0; n < ROUNDS; n++) if (!ways.some((some) => round(some, step))) break;
  return { mix, loss };
}

/** Times that all ways are tried with one step. */
const ROUNDS = 5;

const within = (knob: Knob, value: number) => Math.min(BOUNDS[knob][1], Math.max(BOUNDS[knob][0], value));

/** A p75 is known no better than to this share: two fits that differ by less are equal. */
const TELLS = 0.03;

/** The most that a fit may lose and still be about as good. */
const aboutAsGood = (best: number) => (Math.sqrt(best) + TELLS) ** 2;

/** Visitors more and less alike than the usual three, where the data does not tell how far they lie apart. */
const OTHER_SPREADS = [1.2, 2.2];

/** Mixes of other spreads that fit about as well: what they have otherwise is not told by the data either. */
function otherSpreads(pages: readonly FieldPage[], mix: Mix, best: number): Mix[] {
  const others = KNOBS.filter((k) => k !== 'spread');
  return OTHER_SPREADS.flatMap((spread) => {
    // The slow visitor, who makes the p75s, stays about where it is.
    const f = mix.spread / spread;
    const from = { rttMs: mix.rttMs * f, downKbps: mix.downKbps / f, cpuFactor: mix.cpuFactor * f, spread };
    const tried = refine(pages, from, others, [0.25, 0.1, 0.05], aboutAsGood(best) / 2);
    return tried.loss <= aboutAsGood(best) ? [tried.mix] : [];
  });
}

const widened = ([low, high]: Range, alike: readonly Mix[], knob: Knob): Range => [
  Math.min(low, ...alike.map((m) => m[knob])),
  Math.max(high, ...alike.map((m) => m[knob])),
];

/** How far a knob can be turned, with the others following, before the fit becomes worse. */
function spanOf(pages: readonly FieldPage[], mix: Mix, knob: Knob, best: number, free: readonly Knob[]): Range {
  const others = free.filter((k) => k !== knob);
  const most = aboutAsGood(best);
  const reach = (factors: readonly number[]) => {
    let last = mix[knob];
    // The others have followed this far: they go on from there.
    let from = mix;
    for (const f of factors) {
      const at = within(knob, mix[knob] * f);
      const moved = refine(pages, { ...from, [knob]: at }, others, [0.3, 0.1], most);
      if (moved.loss > most) return last;
      last = at;
      from = moved.mix;
      if (at === BOUNDS[knob][0] || at === BOUNDS[knob][1]) return at;
    }
    return last;
  };
  return [reach([0.85, 0.7, 0.5, 0.25, 0.05]), reach([1.15, 1.4, 2, 4, 20])];
}

/** Draws of a range. */
const DRAWS = 8;

/**
 * The p75 of hero paint over all visits to pages, now and with fixes.
 * @param visits of each page; the same for all where that is not known
 * @param errorShare what the model itself may miss, as a share of the time before
 */
export function p75Change(
  pages: readonly { readonly now: LoadGraph; readonly after: LoadGraph; readonly visits: number }[],
  mix: Mix,
  errorShare: number,
): P75Change {
  const weights = pages.flatMap((p) => WEIGHTS.map((w) => w * p.visits));
  const p75 = (of: 'now' | 'after', perturb?: Perturbation) =>
    mixQuantile(
      pages.flatMap((p) => linksOf(mix).map((l) => milestone(p[of], l, 'lcpMs', perturb))),
      weights,
      0.75,
    );
  const [beforeMs, afterMs] = [p75('now'), p75('after')];
  // A draw of the network moves both: what counts is how far the change lies apart.
  const changes = PERTURBATIONS.slice(0, DRAWS)
    .map((p) => p75('after', p) / p75('now', p))
    .map((share) => beforeMs * share)
    .sort((a, b) => a - b);
  const error = errorShare * (beforeMs - afterMs === 0 ? 0 : Math.abs(beforeMs - afterMs) + 0.02 * beforeMs);
  return {
    beforeMs,
    afterMs,
    range: [Math.min(afterMs, quantile(changes, 0.1)) - error, Math.max(afterMs, quantile(changes, 0.9)) + error],
  };
}
