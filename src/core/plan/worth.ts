import type { Harm } from '../checks/concern';

/**
 * What removing one cause is worth. Slow causes have a time: what their fix saves on a page, times the visits that meet
 * it. Nobody can say how many seconds a broken or exposed one is worth: these are ordered by what breaks, then by
 * visits and pages.
 */
export interface Worth {
  readonly harm: Harm;
  readonly pages: number;
  /** Visits that may meet it: clicks on its pages in search or, without a search export, links in; one more for each. */
  readonly reach: number;
  /** Saved a page, in ms, by forecast; slow causes only. */
  readonly savedMs?: number;
}

const RANK: Readonly<Record<Harm, number>> = { broken: 0, exposed: 1, slow: 2, tidy: 3 };

/** The worth of a cause; `forecastMs` is what its best fix saves on a page that it concerns. */
export function worthOf(input: {
  readonly harm: Harm;
  readonly pages: number;
  readonly reach: number;
  readonly forecastMs?: number;
}): Worth {
  const { harm, pages, reach, forecastMs } = input;
  return {
    harm,
    pages,
    reach,
    ...(harm === 'slow' && forecastMs !== undefined ? { savedMs: Math.max(0, forecastMs) } : {}),
  };
}

/** Seconds saved over all visits; 0 where no time can be told. */
export const savedSeconds = (w: Pick<Worth, 'savedMs' | 'reach'>): number => ((w.savedMs ?? 0) * w.reach) / 1000;

/** Order of worth, the most first: by harm, then by time saved, visits and pages. */
export function byWorth(a: Worth, b: Worth): number {
  return RANK[a.harm] - RANK[b.harm] || savedSeconds(b) - savedSeconds(a) || b.reach - a.reach || b.pages - a.pages;
}

const seconds = (ms: number) => (ms >= 950 ? `${(ms / 1000).toFixed(1)} s` : `${Math.round(ms / 10) * 10} ms`);
const times = (n: number, noun: string) => `${n.toLocaleString('en-GB')} ${noun}${n === 1 ? '' : 's'}`;
const knowsVisits = (w: Pick<Worth, 'pages' | 'reach'>) => w.reach !== w.pages;

/** A worth in few letters: `1.2 s a page × 40 visits`, or the visits alone. */
export function worthShort(w: Worth): string {
  const reach = knowsVisits(w) ? times(w.reach, 'visit') : times(w.pages, 'page');
  return w.savedMs === undefined || w.savedMs < 40 ? reach : `${seconds(w.savedMs)} a page × ${reach}`;
}

/**
 * What a worth says, in words.
 * @param clicksOf name of the search export whose clicks count as visits
 */
export function worthText(w: Worth, clicksOf?: string): string {
  const reach = knowsVisits(w)
    ? clicksOf
      ? `${times(w.reach, 'visit')} may meet it: clicks on its ${times(w.pages, 'page')} by ${clicksOf}, and one more a page`
      : `${times(w.reach, 'visit')} may meet it: each link in to its ${times(w.pages, 'page')} followed once, and one more a page`
    : `It is on ${times(w.pages, 'page')}; how many visits these get is not known`;
  const saved =
    w.savedMs !== undefined
      ? `Its best fix saves ${w.savedMs < 40 ? 'no time that a visitor notices' : `${seconds(w.savedMs)} of hero paint (LCP) a page`}, by forecast.`
      : w.harm === 'slow'
        ? 'No fix known to us changes the hero paint (LCP) of these pages.'
        : 'It costs no time that could be counted.';
  return `${saved} ${reach}.`;
}
