import { setTimeout as pause } from 'node:timers/promises';
import type { CDPSession } from 'playwright-core';
import { DeadlineError, within } from './deadline';

/** A page that takes longer than this to answer is at work, in ms; on a busy machine one that is idle takes a third of it. */
const BUSY_MS = 150;
/** From the end of work to the next look, in ms: what it has set off comes at once. */
const AFTER_WORK_MS = 250;
/** From one look to the next, in ms. */
const STEP_MS = 60;
/** A page that is at work for so long without asking for anything does not build itself any more: it plays, in ms. */
const MOST_WORK_MS = 10_000;

/** Gives the main thread of a page a turn. */
export const turnOf = (session: CDPSession) => () => session.send('Runtime.evaluate', { expression: '0' });

/** What there is to see of a page that loads. */
export interface Loading {
  /** How long nothing has happened on the network, in ms. */
  readonly quietMs: () => number;
  /** Settles once the page's main thread has had a turn; see `turnOf`. */
  readonly turn: () => Promise<unknown>;
}

/** How long a page is waited for. */
export interface SettleTimes {
  /** The network has to be quiet for so long, in ms. */
  readonly quietMs: number;
  /** Moment at which waiting ends, in ms since 1970. */
  readonly until: number;
  /** A page that takes longer for one turn hangs: it is not waited for any more, in ms. */
  readonly turnMs: number;
  /** What goes on for so long after all is quiet on the network is not waited for, in ms. */
  readonly workMs?: number;
}

/** What kept a page from settling: requests that went on, work that did, or a turn without end. */
export type GoesOn = 'requests' | 'work' | 'hangs';

/**
 * Waits until the network has been quiet for a while, and the page was not at work meanwhile: an application that builds
 * itself from what it has been sent is quiet on the network for as long as its scripts run.
 * @returns what went on all the same; undefined when the page has settled
 */
export async function settled(
  page: Loading,
  { quietMs, until, turnMs, workMs = MOST_WORK_MS }: SettleTimes,
  signal?: AbortSignal,
): Promise<GoesOn | undefined> {
  let workedAt = -Infinity;
  let firstLook = Infinity;
  for (;;) {
    for (;;) {
      const left = Math.max(quietMs - page.quietMs(), workedAt + AFTER_WORK_MS - Date.now());
      if (left <= 0) break;
      if (Date.now() > until) return page.quietMs() < quietMs ? 'requests' : 'work';
      await pause(Math.max(1, Math.min(STEP_MS, left)), undefined, { signal });
    }
    firstLook = Math.min(firstLook, Date.now());
    // The second look finds what the first one has let begin: a frame that is long in the making.
    const found = (await look(page, turnMs, signal)) ?? (await look(page, turnMs, signal));
    if (found !== 'work') return found;
    workedAt = Date.now();
    if (workedAt - firstLook > workMs) return 'work';
  }
}

/** Whether a page is at work, or hangs; undefined when it is idle. */
async function look({ turn }: Loading, turnMs: number, signal?: AbortSignal): Promise<GoesOn | undefined> {
  const asked = Date.now();
  try {
    await within(turnMs, turn(), signal);
  } catch (error) {
    signal?.throwIfAborted();
    // Else it is gone, or has gone elsewhere: whoever looks next will say so.
    return error instanceof DeadlineError ? 'hangs' : undefined;
  }
  if (Date.now() - asked > BUSY_MS) return 'work';
  await pause(STEP_MS, undefined, { signal });
  return undefined;
}
