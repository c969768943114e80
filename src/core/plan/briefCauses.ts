import type { Concern, Harm } from '../checks/concern';

/** Causes of a sweep as the Brief sums them up. */
export interface BriefCauses {
  /** What breaks or exposes visitors, the worst first; a few of all. */
  readonly urgent: readonly BriefCause[];
  /** Each concern that has any: causes by their harm, and the title of the worst. */
  readonly concerns: readonly {
    readonly concern: Concern;
    readonly counts: Readonly<Partial<Record<Harm, number>>>;
    readonly worst: string;
  }[];
}

/** One cause in a list of the Brief. */
export interface BriefCause {
  readonly cause: string;
  readonly concern: Concern;
  readonly harm: Harm;
  readonly title: string;
  readonly pages: number;
  /** Different files or addresses among its findings. */
  readonly targets: number;
}
