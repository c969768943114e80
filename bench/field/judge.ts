import { fitMix, p75Change, type FieldPage } from '../../src/core/field/fitVisitors';
import { THRESHOLDS, type FieldRow } from '../../src/core/field/fieldData';
import { isTold, KNOBS, type Mix } from '../../src/core/field/mix';
import type { LoadGraph } from '../../src/core/load/graph';

/** What a visit came to, in ms. */
export interface Load {
  readonly ttfbMs: number;
  readonly fcpMs: number;
  readonly lcpMs: number;
}

const METRICS = ['ttfbMs', 'fcpMs', 'lcpMs'] as const;

/** A page as it is and with its fixes, and visits to both. */
export interface SeenPage {
  readonly now: LoadGraph;
  readonly after: LoadGraph;
  readonly visitsNow: readonly Load[];
  readonly visitsAfter: readonly Load[];
}

/** What came back from the p75s of a known mix. */
export interface Line {
  readonly mix: Mix;
  readonly found: Mix;
  /** Whether the data tells the value, as the tool says, in the order of the knobs. */
  readonly told: readonly boolean[];
  /** How far the p75 of hero paint is off over all visits, as a share. */
  readonly before: number;
  readonly after: number;
}

export const p75 = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.ceil(0.75 * values.length) - 1] ?? 0;
const off = (a: number, b: number) => Math.abs(a / b - 1);
const percent = (share: number) => `${(share * 100).toFixed(1)} %`;

/** Hands p75s (and shares of good and poor visits) to the fit, and holds what comes back against the mix of the visits. */
export function judgeFit(mix: Mix, pages: readonly SeenPage[], withShares: boolean): Line {
  const fit = fitMix(pages.map((p) => fieldPage(p, withShares)));
  const change = p75Change(
    pages.map((p) => ({ now: p.now, after: p.after, visits: 1 })),
    fit.mix,
    0.07,
  );
  const truth = (of: 'visitsNow' | 'visitsAfter') => p75(pages.flatMap((p) => p[of].map((l) => l.lcpMs)));
  return {
    mix,
    found: fit.mix,
    told: KNOBS.map((k) => isTold(fit.spans[k])),
    before: off(change.beforeMs, truth('visitsNow')),
    after: off(change.afterMs, truth('visitsAfter')),
  };
}

function fieldPage({ now, visitsNow }: SeenPage, withShares: boolean): FieldPage {
  const shares = () =>
    Object.fromEntries(
      METRICS.map((m) => {
        const good = visitsNow.filter((l) => l[m] <= THRESHOLDS[m][0]).length / visitsNow.length;
        const poor = visitsNow.filter((l) => l[m] > THRESHOLDS[m][1]).length / visitsNow.length;
        return [m, { good, middling: 1 - good - poor, poor }];
      }),
    );
  const row: FieldRow = {
    of: 'page',
    address: now.page,
    device: 'phone',
    month: '',
    p75: Object.fromEntries(METRICS.map((m) => [m, p75(visitsNow.map((l) => l[m]))])),
    shares: withShares ? shares() : {},
  };
  return { page: now.page, graph: now, row };
}

/** The rows as a table of the document. */
export function tableOf(lines: readonly Line[], withShares: boolean): string {
  const knob = (l: Line, i: number) => {
    const k = KNOBS[i] as (typeof KNOBS)[number];
    const text = `${Number(l.mix[k].toPrecision(3))} → ${Number(l.found[k].toPrecision(3))} (${percent(off(l.found[k], l.mix[k]))})`;
    return k === 'spread' && !withShares ? 'not looked for' : l.told[i] ? text : `${text}, not told`;
  };
  return [
    '| Round trip, ms | Rate, kbit/s | Processor | Spread | p75 now | p75 after two fixes |',
    '| --- | --- | --- | --- | --- | --- |',
    ...lines.map(
      (l) => `| ${KNOBS.map((_, i) => knob(l, i)).join(' | ')} | ${percent(l.before)} | ${percent(l.after)} |`,
    ),
  ].join('\n');
}
