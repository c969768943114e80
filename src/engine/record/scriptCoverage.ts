import { setTimeout as pause } from 'node:timers/promises';
import type { CDPSession, Page } from 'playwright-core';
import { scriptUses, type ScriptUse } from '../../core/capture/scriptUse';
import { within } from './deadline';

/** Longest waits for the page and for the browser's answer, and how long scripts may go on behind the load event, in ms. */
const RELOAD_MS = 20_000;
const ANSWER_MS = 10_000;
const LATER_MS = 800;

/**
 * How much of each script file runs while a page loads, in whole functions; undefined when the page or the browser does not
 * tell in time. The page is loaded once more for it: a browser that counts functions runs busy scripts up to half as slow
 * again, and one that does not has forgotten most of them by the end.
 * @param files addresses of what was loaded as a script
 * @param attach opens a session for the second load
 * @throws the reason of the signal
 */
export async function ranByReload(
  page: Page,
  files: ReadonlySet<string>,
  signal: AbortSignal | undefined,
  attach: () => Promise<CDPSession>,
): Promise<ScriptUse[] | undefined> {
  try {
    const session = await within(ANSWER_MS, attach(), signal, 'Chromium');
    await within(ANSWER_MS, startCoverage(session), signal, 'Chromium');
    await within(RELOAD_MS, page.reload({ waitUntil: 'load', timeout: RELOAD_MS }), signal);
    await pause(LATER_MS, undefined, { signal });
    const { result } = await within(ANSWER_MS, session.send('Profiler.takePreciseCoverage'), signal, 'Chromium');
    return scriptUses(
      result.map(({ url, functions }) => ({ url, ranges: functions.flatMap((f) => f.ranges) })),
      files,
    );
  } catch {
    signal?.throwIfAborted();
    return undefined;
  }
}

async function startCoverage(session: CDPSession): Promise<void> {
  await session.send('Profiler.enable');
  await session.send('Profiler.startPreciseCoverage', { callCount: false, detailed: false });
}
