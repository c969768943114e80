import type { Judged } from './compare';
import { FITTED, loss } from './fit';
import { MEANING } from './meaning';

/** What a constant is, and how much worse forecasts become without it being right. */
export interface Sensitivity {
  readonly name: string;
  readonly value: number;
  readonly means: string;
  /** Loss with half of it and half again of it, against the loss as it is: 0.1 is a tenth worse. */
  readonly half: number;
  readonly more: number;
}

/** Moves each constant by half of itself, on the pages that it was fitted on. */
export function sensitivities(pages: readonly Judged[]): Sensitivity[] {
  const now = loss(pages);
  return FITTED.map((c) => {
    const value = c.get();
    const at = (factor: number) => {
      c.set(value * factor);
      const changed = loss(pages) / now - 1;
      c.set(value);
      return changed;
    };
    return { name: c.name, value, means: MEANING[c.name] ?? '', half: at(0.5), more: at(1.5) };
  });
}
