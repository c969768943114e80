import { setTimeout as pause } from 'node:timers/promises';
import { DeadlineError, within } from './deadline';

/** A page that takes longer than this to answer is at work, in ms. */
const BUSY_MS = 100;
/** From one look to the next, in ms. */
const STEP_MS = 60;

/** What there is to see of a page that loads. */
export interface Loading {
  /** How long nothing has happened on the network, in ms; 0 while a request is open. */
  readonly quietMs: () => number;
  /** Settles once the page's main thread has had a turn. */
  readonly turn: () => Promise<unknown>;
}

/**
 * Waits until the network has been quiet for a while, and the page was not at work meanwhile: an application that builds
 * itself from what it has been sent is quiet on the network for as long as its scripts run.
 * @param quietMs how long both have to be, in ms
 * @param until moment at which waiting ends, in ms since 1970
 * @param turnMs a page that takes longer for one turn hangs: it is not waited for any more
 * @returns why waiting ended before that: requests that went on, or a page that was still at work; undefined when all was quiet
 */
export async function settled(
  page: Loading,
  quietMs: number,
  until: number,
  turnMs: number,
  signal?: AbortSignal,
): Promise<'requests' | 'work' | undefined> {
  let workedAt = -Infinity;
  const quietFor = () => Math.min(page.quietMs(), Date.now() - workedAt);
  for (;;) {
    while (quietFor() < quietMs) {
      if (Date.now() > until) return page.quietMs() < quietMs ? 'requests' : 'work';
      await pause(Math.max(1, Math.min(STEP_MS, quietMs - quietFor())), undefined, { signal });
    }
    // The second look finds what the first one has let begin: a frame that is long in the making.
    const worked = (await works(page, turnMs, signal)) ?? (await works(page, turnMs, signal));
    if (worked !== true) return worked === undefined ? undefined : 'work';
    workedAt = Date.now();
  }
}

/** Whether a page is at work; `hangs` when it does not end. Undefined when it is not. */
async function works({ turn }: Loading, turnMs: number, signal?: AbortSignal): Promise<true | 'hangs' | undefined> {
  const asked = Date.now();
  try {
    await within(turnMs, turn(), signal);
  } catch (error) {
    signal?.throwIfAborted();
    if (error instanceof DeadlineError) return 'hangs';
    // It is gone, or has gone elsewhere: whoever looks next will say so.
    return undefined;
  }
  if (Date.now() - asked > BUSY_MS) return true;
  await pause(STEP_MS, undefined, { signal });
  return undefined;
}
