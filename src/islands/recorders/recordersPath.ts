import type { RecorderRow } from '../../core/fleet/recorder';

export const RECORDERS = '/api/recorders';

/** Recorders elsewhere, and what waits for them. */
export interface RecordersAnswer {
  readonly hasQueue: boolean;
  /** Recordings, probes and proofs that wait in the queue or are being made. */
  readonly sent: number;
  readonly recorders: readonly RecorderRow[];
}
