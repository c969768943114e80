import type { Measured } from '../capture/capture';
import { BROWSER } from './browser';

/** From the end of a frame's work on the main thread until it was on the screen, in ms; undefined where nobody looked. */
export interface Presentation {
  readonly firstMs?: number;
  /** Of the hero, without drawing its own picture. */
  readonly heroMs?: number;
}

/** No frame is on the screen sooner, in ms; what takes longer than the most is another frame's. */
const LEAST_MS = 8;
const MOST_MS = 400;

/**
 * How long the frames of the first paint and of the hero were on their way to the screen, in the run in which that was
 * shortest: what else the machine did only adds.
 * @param heroPixels points of the hero's picture, whose drawing is counted by itself
 */
export function presentationOf(measured: Measured, heroPixels: number): Presentation {
  const runs = [measured, ...(measured.otherRuns ?? [])];
  const least = (of: (run: (typeof runs)[number]) => readonly [shown?: number, painted?: number], drawnMs: number) => {
    const all = runs.map(of).flatMap(([shown, painted]) => (shown && painted ? [shown - painted] : []));
    const ms = Math.min(...all.filter((ms) => ms > 0)) - drawnMs;
    return Number.isFinite(ms) ? Math.min(MOST_MS, Math.max(LEAST_MS, ms)) : undefined;
  };
  const heroDrawnMs = (heroPixels / 1e6) * BROWSER.drawFixedMsPerMillion;
  const together = measured.fcpMs === measured.lcpMs;
  return {
    firstMs: least((r) => [r.fcpMs, r.fcpPaintMs], together ? heroDrawnMs : 0),
    heroMs: least((r) => [r.lcpMs, r.lcpPaintMs], heroDrawnMs),
  };
}
