import type { CDPSession, Page } from 'playwright-core';
import { InputError, PageError } from '../../core/capture/errors';
import { firstLine } from './browser';
import { DeadlineError, within } from './deadline';
import type { NetworkLog } from './networkLog';
import { nextFor } from './openFaults';
import { settled, turnOf, type SettleTimes } from './settled';

/** What opening a page needs besides the tab. */
interface Navigation {
  readonly notes: string[];
  readonly log: NetworkLog;
  /** The page has stopped loading without a load event. */
  readonly stopped: Promise<void>;
  readonly signal?: AbortSignal;
  /** Finds out what went wrong with connections. */
  readonly faults: () => void;
}

/**
 * Opens a page and waits for its load event, or until it has stopped without one; both are said in the notes.
 * @throws PageError when it cannot be opened
 */
export async function navigate(
  page: Page,
  url: string,
  timeoutMs: number,
  { notes, log, stopped, signal, faults }: Navigation,
): Promise<void> {
  const loaded = page.goto(url, { waitUntil: 'load', timeout: timeoutMs }).then(() => true);
  try {
    const isLoaded = await within(timeoutMs + 5000, Promise.race([loaded, stopped.then(() => false)]), signal);
    if (!isLoaded)
      notes.push('A script asked for an address that answers with no page: this page stopped loading there.');
  } catch (error) {
    signal?.throwIfAborted();
    const text = firstLine(error);
    const late = error instanceof DeadlineError || /Timeout/i.test(text);
    if (late && log.loads.some((l) => l.status > 0)) {
      notes.push(`The page had not finished loading after ${Math.round(timeoutMs / 1000)} s: kept what had arrived.`);
      return;
    }
    faults();
    const told = log.loads.find((l) => l.kind === 'document')?.error;
    if (told?.startsWith('not asked'))
      throw new PageError(
        'The page leads to a private address: it was not asked for.',
        url,
        'To record it all the same use --allow-private.',
      );
    const code = /net::(ERR_[A-Z_]+)/.exec(told ?? text)?.[1] ?? (late ? 'no answer in time' : text);
    throw new PageError(`The page could not be opened: ${code}.`, url, nextFor(code));
  }
}

/** Waits until something is there to be seen; without it the page is kept as it is, with a note. */
export async function seen(
  page: Page,
  selector: string,
  until: number,
  notes: string[],
  signal: AbortSignal | undefined,
): Promise<void> {
  const timeout = Math.max(1, until - Date.now());
  await within(timeout + 2000, page.waitForSelector(selector, { timeout }), signal).catch((error: unknown) => {
    signal?.throwIfAborted();
    if (/selector|parse/i.test(firstLine(error)) && !/Timeout/i.test(firstLine(error)))
      throw new InputError(`The selector is not understood: ${firstLine(error)}`, selector, 'Write a CSS selector.');
    notes.push(`${selector} had not shown by the time limit.`);
  });
}

/** Waits until the network has been quiet for a while and the page is not at work; what goes on all the same is noted. */
export async function settle(
  session: CDPSession,
  log: NetworkLog,
  times: SettleTimes,
  notes: string[],
  signal: AbortSignal | undefined,
): Promise<void> {
  const goesOn = await settled({ quietMs: () => log.quietMs, turn: turnOf(session) }, times, signal);
  if (goesOn === 'requests') notes.push(`Requests went on until the time limit; ${log.pending} were still open.`);
  // One that hangs is told by whoever asks it next.
  if (goesOn === 'work') notes.push('Scripts of the page were still at work when the recording ended.');
}
