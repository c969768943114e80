import type { Harm } from '../checks/finding';

/**
 * What a harm counts for where no time can be forecast, in ms of a visitor's time: a refused file costs a visitor
 * what it was for, an exposed one a risk, and what nobody notices next to nothing.
 */
export const HARM_MS: Readonly<Record<Harm, number>> = { broken: 3000, exposed: 1000, slow: 100, tidy: 20 };

/** Worth of removing one cause, with what it was reckoned from. */
export interface Worth {
  /** Visitors' time, in seconds, if every link to its pages were followed once. */
  readonly seconds: number;
  readonly harmMs: number;
  /** True when `harmMs` is a forecast and not the harm's fixed weight. */
  readonly forecast: boolean;
  readonly pages: number;
  /** Links in to these pages, one more for each. */
  readonly reach: number;
}

/** Worth = harm x reach. `forecastMs` is what the fix wins on a page it concerns. */
export function worthOf(input: {
  readonly harm: Harm;
  readonly pages: number;
  readonly reach: number;
  readonly forecastMs?: number;
}): Worth {
  const { harm, pages, reach, forecastMs } = input;
  const forecast = harm === 'slow' && forecastMs !== undefined;
  const harmMs = forecast ? Math.max(0, forecastMs) : HARM_MS[harm];
  return { seconds: (harmMs * reach) / 1000, harmMs, forecast, pages, reach };
}

/** The arithmetic behind a worth, in words. */
export function worthText(worth: Worth, harm: Harm): string {
  const what = worth.forecast
    ? `${Math.round(worth.harmMs)} ms of hero paint that the fix wins on a page`
    : `${worth.harmMs} ms, which ${harm} counts for`;
  const visits =
    worth.reach === worth.pages
      ? `${worth.pages} ${worth.pages === 1 ? 'page' : 'pages'} (links to them are not known)`
      : `${worth.reach} visits: each link in to its ${worth.pages} ${worth.pages === 1 ? 'page' : 'pages'} followed once, and one more a page`;
  return `${what} × ${visits} = ${worthShort(worth)} of visitors' time.`;
}

/** A worth in few letters. */
export function worthShort(worth: Pick<Worth, 'seconds'>): string {
  const { seconds } = worth;
  if (seconds >= 6000) return `${Math.round(seconds / 360) / 10} h`;
  if (seconds >= 100) return `${Math.round(seconds / 6) / 10} min`;
  return seconds >= 10 ? `${Math.round(seconds)} s` : `${Math.round(seconds * 10) / 10} s`;
}
