import fs from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import type { Browser, BrowserContext, BrowserContextOptions } from 'playwright-core';
import { warmUp } from './browser';
import { driver } from './driver';
import { within } from './deadline';

const END_MS = 20_000;

/**
 * What most visitors' browsers do, and neither Debian's Chromium nor a private window does: they send cookies to hosts of
 * other sites. Without that such a request goes over a connection of its own (Fetch, 2.6, Connections), and one that
 * `rel=preconnect` has opened stays unused.
 */
const PREFERENCES = { profile: { cookie_controls_mode: 0, block_third_party_cookies: false } };

/** How a browser of a visitor is started. */
export interface VisitorBrowserOptions extends BrowserContextOptions {
  readonly executablePath: string;
  readonly args: readonly string[];
}

/** A browser for one visitor. */
export interface VisitorBrowser {
  readonly context: BrowserContext;
  /** Ends it, and removes what it has kept. */
  close(): Promise<void>;
}

/**
 * Starts a browser with a new profile that is set as most visitors' are, and lets it get over its first second.
 * @throws Error when it does not start
 */
export async function startVisitorBrowser({ args, ...options }: VisitorBrowserOptions): Promise<VisitorBrowser> {
  const folder = await fs.mkdtemp(path.join(os.tmpdir(), 'keen-lens-visitor-'));
  const remove = () => fs.rm(folder, { recursive: true, force: true, maxRetries: 5, retryDelay: 100 });
  try {
    await fs.mkdir(path.join(folder, 'Default'));
    await fs.writeFile(path.join(folder, 'Default/Preferences'), JSON.stringify(PREFERENCES));
    const chromium = await driver();
    const context = await chromium.launchPersistentContext(folder, { ...options, args: [...args], headless: true });
    const close = () => within(END_MS, context.close(), undefined, 'Chromium').finally(remove);
    try {
      await warmUp(context.browser() as Browser);
      return { context, close };
    } catch (error) {
      await close().catch(() => undefined);
      throw error;
    }
  } catch (error) {
    await remove();
    throw error;
  }
}
