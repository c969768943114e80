import type { Concern, Harm } from '../checks/concern';

/** A cause in one sweep, with the pages on which it was found. */
export interface SweepCause {
  readonly cause: string;
  readonly check: string;
  readonly concern: Concern;
  readonly harm: Harm;
  readonly title: string;
  readonly pages: readonly string[];
}

/** What changed between two sweeps, by cause. */
export interface News {
  readonly appeared: readonly SweepCause[];
  /** Not in the sweep before, but in one before that. */
  readonly cameBack: readonly SweepCause[];
  /** Of the sweep before; at least one of its pages was looked at again. */
  readonly gone: readonly SweepCause[];
  readonly stayed: number;
  /** Causes of the sweep before of whose pages none was looked at again: nothing is known of them. */
  readonly notLookedAt: readonly SweepCause[];
  /** Pages recorded in one of the two sweeps only. */
  readonly pagesAdded: readonly string[];
  readonly pagesDropped: readonly string[];
}

const HARMS: readonly Harm[] = ['broken', 'exposed', 'slow', 'tidy'];

/**
 * Compares the causes of two sweeps.
 * @param earlier ids of causes of the sweeps before the one compared with
 * @param lookedAt pages that the newer sweep has captures of
 * @param lookedAtBefore pages that the older one has captures of: what is found on others is not called new
 */
export function newsBetween(
  now: readonly SweepCause[],
  before: readonly SweepCause[],
  earlier: ReadonlySet<string>,
  lookedAt: ReadonlySet<string>,
  lookedAtBefore: ReadonlySet<string>,
): News {
  const was = new Set(before.map((c) => c.cause));
  const is = new Set(now.map((c) => c.cause));
  const fresh = now.filter((c) => !was.has(c.cause) && c.pages.some((p) => lookedAtBefore.has(p)));
  const left = before.filter((c) => !is.has(c.cause));
  const again = (c: SweepCause) => c.pages.some((p) => lookedAt.has(p));
  return {
    appeared: worstFirst(fresh.filter((c) => !earlier.has(c.cause))),
    cameBack: worstFirst(fresh.filter((c) => earlier.has(c.cause))),
    gone: worstFirst(left.filter(again)),
    stayed: now.filter((c) => was.has(c.cause)).length,
    notLookedAt: worstFirst(left.filter((c) => !again(c))),
    pagesAdded: [...lookedAt].filter((p) => !lookedAtBefore.has(p)).sort(),
    pagesDropped: [...lookedAtBefore].filter((p) => !lookedAt.has(p)).sort(),
  };
}

const worstFirst = (list: readonly SweepCause[]) =>
  [...list].sort(
    (a, b) =>
      HARMS.indexOf(a.harm) - HARMS.indexOf(b.harm) || b.pages.length - a.pages.length || (a.cause < b.cause ? -1 : 1),
  );
