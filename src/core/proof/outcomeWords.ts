import type { Device } from '../capture/capture';
import type { Range } from '../load/range';

/** What is said of fixes that are said to be done. */

/** A finding as far as outcomes name it. */
export interface OutcomeFinding {
  readonly id: string;
  readonly check: string;
  readonly title: string;
  readonly target: string;
  /** Where it stands in the source: address and line. */
  readonly place?: string;
}

/** Whether the promise of a fix was kept. */
export type OutcomeVerdict = 'kept' | 'less' | 'more' | 'not done' | 'partly done' | 'came back' | 'not looked at';

/** What became of one fix. */
export interface FixOutcome {
  readonly group: string;
  readonly title: string;
  readonly verdict: OutcomeVerdict;
  readonly gone: number;
  readonly still: readonly OutcomeFinding[];
  /** Findings of the same check that were not there before, where one of the fix is gone. */
  readonly replaced: readonly OutcomeFinding[];
}

/** What became of one page. Changes of hero paint in ms, for one visitor. */
export interface PageOutcome {
  readonly page: string;
  readonly device: Device;
  readonly groups: readonly string[];
  /** Of all its fixes together; undefined where the visitor has another device. */
  readonly promisedMs?: number;
  readonly range?: Range;
  /** Between the two recordings, both simulated for the visitor with the server waits of the older one. */
  readonly measuredMs?: number;
  /** Time to first byte without the link, as recorded. */
  readonly waits: { readonly beforeMs: number; readonly afterMs: number };
  readonly fresh: readonly OutcomeFinding[];
}

/** What became of the done fixes of a plan. */
export interface Outcome {
  readonly fixes: readonly FixOutcome[];
  readonly pages: readonly PageOutcome[];
  /** Averages over the pages that could be measured. */
  readonly promisedMs: number;
  readonly measuredMs: number;
}

/** A verdict for people. */
export const OUTCOME_WORDS: Readonly<Record<OutcomeVerdict, string>> = {
  kept: 'kept',
  less: 'won less than promised',
  more: 'won more than promised',
  'not done': 'not done: the findings are still there',
  'partly done': 'partly done',
  'came back': 'came back',
  'not looked at': 'not looked at again',
};
