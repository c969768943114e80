import type { EventQueue } from '../eventQueue';
import type { LoadGraph } from '../graph';
import type { Network } from '../network';
import type { Prepared } from '../prepare';

/** What all parts of a simulated load share; none of them changes it. */
export interface Shared {
  readonly graph: LoadGraph;
  readonly p: Prepared;
  /** How much slower main-thread work is than recorded. */
  readonly cpu: number;
  /** The same for work that a recording counted by its processor time. */
  readonly work: number;
  /** Of a draw; 0 for the simulation that nothing perturbs. */
  readonly seed: number;
  readonly queue: EventQueue;
  readonly network: Network;
}
