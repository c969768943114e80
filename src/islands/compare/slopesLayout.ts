import { scaleLinear } from 'd3';
import type { PageThenNow } from '../../core/pictures/compare';

/** A page as a line from then to now. */
export interface Slope {
  readonly page: PageThenNow;
  readonly y1: number;
  readonly y2: number;
  readonly better: boolean;
  /** Changed by so little that it is noise. */
  readonly same: boolean;
}

export interface Slopes {
  readonly slopes: readonly Slope[];
  /** Names of the biggest movers at the right end, apart from each other. */
  readonly labels: readonly { readonly slope: Slope; readonly y: number }[];
  readonly ticks: readonly { readonly ms: number; readonly y: number }[];
}

/** Below this change a page counts as unchanged: 40 ms and 3 % are within what two recordings differ by. */
const SAME = (a: number, b: number) => Math.abs(a - b) < Math.max(40, 0.03 * a);
const LABEL = 15;

/** Lines of the pages of two sweeps on one scale, later hero paint further down; a pure function. */
export function slopesLayout(pages: readonly PageThenNow[], height: number, named: number): Slopes {
  const both = pages.filter((p) => p.then && p.now);
  const most = Math.max(1, ...both.flatMap((p) => [p.then?.lcpMs ?? 0, p.now?.lcpMs ?? 0]));
  const y = scaleLinear([0, most], [8, height - 8]);
  const slopes = both.map((page): Slope => {
    const [a, b] = [page.then?.lcpMs ?? 0, page.now?.lcpMs ?? 0];
    return { page, y1: y(a), y2: y(b), better: b < a, same: SAME(a, b) };
  });
  const chosen = slopes.filter((s) => !s.same).slice(0, named);
  const labels: { slope: Slope; y: number }[] = [];
  for (const slope of [...chosen].sort((a, b) => a.y2 - b.y2))
    labels.push({ slope, y: Math.max(slope.y2, (labels.at(-1)?.y ?? -LABEL) + LABEL) });
  return { slopes, labels, ticks: y.ticks(5).map((ms) => ({ ms, y: y(ms) })) };
}
