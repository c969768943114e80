import { timeRangeText, timeText } from '../handover/effectText';
import type { Range } from '../load/range';
import { isHeld, type Held, type Promised, type Samples } from './proof';

/** What a proof found, as far as words need it. */
export interface Proved {
  readonly before: Samples;
  readonly change: Samples;
  readonly forecast: Promised;
  readonly held: Held;
  readonly firstScreenAlike: number;
  readonly firstScreenItself: number;
  readonly newErrors: readonly string[];
}

/** First screens that differ by more than this from what two loads without fixes differ by look different. */
const LOOKS_DIFFERENT = 0.08;

/** Whether the fixes change what the first screen shows: the price of a win may be a broken page. */
export const breaksFirstScreen = (p: Pick<Proved, 'firstScreenAlike' | 'firstScreenItself'>): boolean =>
  p.firstScreenAlike < Math.min(1, p.firstScreenItself || 1) - LOOKS_DIFFERENT;

/** How a promise came out. */
export type Verdict = 'held' | 'more' | 'less';

/** Whether the hero's promise held, or the measured win was larger or smaller than the range. */
export function verdictOf(p: Pick<Proved, 'change' | 'forecast'>): Verdict {
  const { low, high } = p.change.lcpMs;
  if (isHeld({ low, high }, p.forecast.range.lcpMs)) return 'held';
  return high < p.forecast.range.lcpMs[0] ? 'more' : 'less';
}

/** "Promised 2.1 to 2.9 s less; measured 2.4 s less. Held." */
export function verdictText(p: Proved): string {
  const verdict = { held: 'Held.', more: 'Better than promised.', less: 'Not held.' }[verdictOf(p)];
  const parts = [
    `Promised ${rangeText(p.forecast.range.lcpMs)}; measured ${changeText(p.change.lcpMs.median)}. ${verdict}`,
  ];
  if (breaksFirstScreen(p))
    parts.push(
      `The first screen looks different with the fixes (${Math.round(100 * p.firstScreenAlike)} % alike): look at both.`,
    );
  if (p.newErrors.length > 0)
    parts.push(`The fixes bring ${p.newErrors.length === 1 ? 'a new error' : `${p.newErrors.length} new errors`}.`);
  return parts.join(' ');
}

/** A change of a time in words: "2.4 s less", "no change". */
export function changeText(ms: number): string {
  return Math.abs(ms) < 10 ? 'no change' : `${timeText(Math.abs(ms))} ${ms < 0 ? 'less' : 'more'}`;
}

/** A range of changes in words: "2.1 to 2.9 s less", "200 ms less to 100 ms more". */
export function rangeText([low, high]: Range): string {
  if (Math.abs(low) < 10 && Math.abs(high) < 10) return 'no change';
  if (high <= 0) return `${timeRangeText([Math.max(0, -high), -low])} less`;
  if (low >= 0) return `${timeRangeText([low, high])} more`;
  return `${changeText(low)} to ${changeText(high)}`;
}
