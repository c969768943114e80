import type { BrowserContext, BrowserContextOptions, Page } from 'playwright-core';
import { InputError, PageError } from '../../core/capture/errors';
import { stepText, type Step } from '../../core/capture/steps';
import { firstLine, type RecordingBrowser } from './browser';
import { within } from './deadline';

/** Cookies and local storage as steps have left them. */
export type BrowserState = Exclude<BrowserContextOptions['storageState'], string | undefined>;

/** Longest time for one step, in ms. */
const STEP_MS = 15_000;
const STATE_MS = 10_000;

/** What steps need besides themselves. */
export interface StepOptions {
  readonly context: BrowserContextOptions;
  /** Values of environment variables by name. */
  readonly secrets: ReadonlyMap<string, string>;
  /** Makes the tab ready before anything is opened: headers, password. */
  readonly ready: (page: Page, context: BrowserContext) => Promise<void>;
  readonly signal?: AbortSignal;
}

/**
 * Takes steps in a profile of its own and gives the cookies and local storage that they leave: recordings begin with them
 * and with an empty cache.
 * @throws PageError that names the step that could not be taken; the reason of the signal
 */
export async function takeSteps(
  { browser }: RecordingBrowser,
  steps: readonly Step[],
  { context: contextOptions, secrets, ready, signal }: StepOptions,
): Promise<BrowserState> {
  const context = await within(STATE_MS, browser.newContext(contextOptions), signal, 'Chromium');
  try {
    const page = await within(STATE_MS, context.newPage(), signal, 'Chromium');
    page.setDefaultTimeout(STEP_MS);
    page.on('dialog', (dialog) => void dialog.dismiss().catch(() => undefined));
    await within(STATE_MS, ready(page, context), signal, 'Chromium');
    for (const [i, step] of steps.entries()) {
      try {
        await within(STEP_MS + 2000, take(page, step, secrets), signal);
      } catch (error) {
        signal?.throwIfAborted();
        if (error instanceof InputError) throw error;
        throw new PageError(
          `Step ${i + 1} could not be taken: ${firstLine(error)}`,
          stepText(step),
          'Check its selector on the page that is open by then.',
        );
      }
    }
    // What the last click has set off sets cookies, too.
    await within(STEP_MS, page.waitForLoadState('networkidle', { timeout: STEP_MS }), signal).catch(() => undefined);
    signal?.throwIfAborted();
    return await within(STATE_MS, context.storageState(), signal, 'Chromium');
  } finally {
    await within(STATE_MS, context.close(), undefined, 'Chromium').catch(() => undefined);
  }
}

async function take(page: Page, step: Step, secrets: ReadonlyMap<string, string>): Promise<void> {
  switch (step.do) {
    case 'open':
      await page.goto(step.url, { waitUntil: 'load' });
      return;
    case 'fill':
      await page.fill(step.selector, 'env' in step.value ? (secrets.get(step.value.env) ?? '') : step.value.text);
      return;
    case 'click':
      await page.click(step.selector);
      return;
    case 'wait':
      await page.waitForSelector(step.selector);
  }
}
