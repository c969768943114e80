import type { Range } from '../load/range';

/** Changes below this are not told from noise, in ms. */
const NOTHING_MS = 40;

/** Milliseconds for people: "640 ms" below one second, "6.4 s" above, never more digits than are known. */
export function timeText(value: number): string {
  const a = Math.abs(value);
  if (a < 950) return `${Math.round(value / 10) * 10} ms`;
  return `${(value / 1000).toFixed(1)} s`;
}

/** "3.3 to 3.9 s". */
export function timeRangeText([low, high]: Range): string {
  if (timeText(low) === timeText(high)) return timeText(high);
  if (high < 950) return `${Math.round(low / 10) * 10} to ${timeText(high)}`;
  return `${(low / 1000).toFixed(1)} to ${(high / 1000).toFixed(1)} s`;
}

/** A change of a time and its range: "saves 1.3 s (1.2 to 1.6 s)", "adds 0.2 s", "no change". */
export function effectText(changeMs: number, range?: Range): string {
  const what =
    Math.abs(changeMs) < NOTHING_MS
      ? 'no change'
      : changeMs < 0
        ? `saves ${timeText(-changeMs)}`
        : `adds ${timeText(changeMs)}`;
  return range && (Math.abs(changeMs) >= NOTHING_MS || Math.max(...range.map(Math.abs)) >= NOTHING_MS)
    ? `${what} (${effectRangeText(range, changeMs < 0)})`
    : what;
}

/** The range of a change, read as what it saves or adds; where its ends differ in that, both are said. */
export function effectRangeText([low, high]: Range, saves: boolean): string {
  if (high <= 0 && saves) return timeRangeText([-high, -low]);
  if (low >= 0 && !saves) return timeRangeText([low, high]);
  if (high <= 0) return `saves ${timeRangeText([-high, -low])}`;
  if (low >= 0) return `adds ${timeRangeText([low, high])}`;
  return `saves ${timeText(-low)} to adds ${timeText(high)}`;
}

/** How well a recording is simulated under its own conditions, in words. */
export function trustText(trust: {
  readonly gap?: number;
  readonly missed?: string;
  readonly spread?: number;
}): string {
  const apart = Math.round((trust.spread ?? 0) * 100);
  return (
    gapText(trust) + (apart > 20 ? ` The paints of its runs lie ${apart} % apart: ranges are wider for that.` : '')
  );
}

function gapText(trust: { readonly gap?: number; readonly missed?: string }): string {
  if (trust.gap === undefined) return 'The recording does not state its paints, so there is nothing to compare.';
  const percent = Math.round(Math.abs(trust.gap) * 100);
  if (!trust.missed) return `The recording’s own paints are simulated to within ${Math.max(1, percent)} %.`;
  return `The recording’s own ${trust.missed} is simulated ${percent} % too ${trust.gap < 0 ? 'early' : 'late'}: ranges are wider for it.`;
}

/** Two outcomes of one change in words: "In 7 of 10 loads saves 0.1 s, in 3 of 10 saves 1.6 s". */
export const splitText = (split: readonly { readonly ofTen: number; readonly lcpMs: number }[]): string =>
  `Loads fall into two groups: ${split
    .map(
      (g) =>
        `in ${g.ofTen} of 10 the hero paint ${effectText(g.lcpMs)
          .replace('no change', 'does not change')
          .replace(/^saves (.*)$/, 'comes $1 earlier')
          .replace(/^adds (.*)$/, 'comes $1 later')}`,
    )
    .join(', ')}. It depends on which of two requests goes first.`;
