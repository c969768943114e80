import { newWindow, type Window } from './congestion';
import type { Pool } from './pools';
import { StreamScheduler } from './streamScheduler';

/** A simulated connection, with what the server has on it. Times in ms, sizes in bytes, what is in flight in segments. */
export interface Connection {
  readonly index: number;
  readonly pool: number;
  readonly h2: boolean;
  ready: boolean;
  readonly window: Window;
  inFlight: number;
  /** Streams with data left to hand over, and turns handed over but not sent. */
  readonly sending: StreamScheduler;
  /** It is about to hand over what it has. */
  handsOver: boolean;
  /** The request that went out last, and when. */
  lastAsked: number;
  lastAskedAt: number;
  handed: { id: number; left: number }[];
  unsent: number;
  /** Requests out on it (HTTP/1.1 allows one). */
  busy: number;
  /** Number of the next packet, and of the one that the browser waits for: what comes behind a lost one waits for it. */
  packets: number;
  expected: number;
  early?: Map<number, { readonly id: number; readonly size: number }>;
}

/** A connection of a pool that has still to be set up. */
export function newConnection(index: number, poolIndex: number, pool: Pool): Connection {
  return {
    index,
    pool: poolIndex,
    h2: pool.h2,
    ready: false,
    window: newWindow(),
    inFlight: 0,
    sending: new StreamScheduler(pool.h2 && pool.byUrgency),
    handsOver: false,
    lastAsked: -1,
    lastAskedAt: -1,
    handed: [],
    unsent: 0,
    busy: 0,
    packets: 0,
    expected: 0,
  };
}
