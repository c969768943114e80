import type { Browser } from 'playwright-core';
import { driver } from './driver';
import { InputError, PageError } from '../../core/capture/errors';
import { FilterProxy } from '../net/filterProxy';
import type { Guard, GuardOptions } from '../net/guard';
import { browserSwitches, findChromium } from './chromium';
import { within } from './deadline';

/** Text, a picture and a script: what a browser does for the first time takes longer. */
const WARM_UP = `<style>p{font-family:serif}div{font-family:sans-serif}code{font-family:monospace}</style><h1>Warm</h1><p>up</p><div>the <code>browser</code></div>
<img src="data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==" width="200" height="200"><script>document.title='warm'</script>`;

const START_MS = 30_000;
const END_MS = 3_000;

/** A browser for recordings. */
export class RecordingBrowser {
  private constructor(
    readonly browser: Browser,
    /** Set where the browser reaches the network through it alone. */
    readonly proxy: FilterProxy | undefined,
    private readonly pid: number | undefined,
  ) {}

  /**
   * Starts a browser and lets it get over its first second.
   * @throws PageError when it does not start; the reason of the signal
   */
  static async start(
    guard: Guard,
    options: GuardOptions & { readonly acceptAnyCertificate?: boolean },
    signal?: AbortSignal,
  ): Promise<RecordingBrowser> {
    // Where private addresses are allowed nothing is left to filter but our own server, and a switch does that.
    const proxy = options.allowPrivate ? undefined : await FilterProxy.start(guard);
    const chromium = await driver();
    const launching = chromium.launch({
      executablePath: findChromium(),
      headless: true,
      timeout: START_MS,
      args: browserSwitches(options.mapHosts, options.acceptAnyCertificate, {
        proxyPort: proxy?.port,
        ownPorts: options.ownPorts ?? [],
      }),
    });
    let started: RecordingBrowser | undefined;
    try {
      const browser = await within(START_MS + 5000, launching, signal, 'Chromium');
      started = new RecordingBrowser(browser, proxy, await processOf(browser));
      await warmUp(browser, signal);
      return started;
    } catch (error) {
      if (started) await started.close();
      else {
        launching.then((b) => b.close()).catch(() => undefined);
        await proxy?.close();
      }
      if (error instanceof InputError || signal?.aborted) throw error;
      throw new PageError(
        `Chromium did not start: ${firstLine(error)}`,
        findChromium(),
        'Start it by hand to see why.',
      );
    }
  }

  /**
   * Uses a browser that runs already, here or elsewhere, by its debugging address. Nothing filters what it asks for, and
   * it goes on running afterwards.
   * @throws PageError when it cannot be reached; the reason of the signal
   */
  static async connect(address: string, signal?: AbortSignal): Promise<RecordingBrowser> {
    const chromium = await driver();
    const connecting = chromium.connectOverCDP(address, { timeout: START_MS });
    try {
      const browser = await within(START_MS + 5000, connecting, signal, 'The browser');
      await warmUp(browser, signal);
      return new RecordingBrowser(browser, undefined, undefined);
    } catch (error) {
      connecting.then((b) => b.close()).catch(() => undefined);
      if (signal?.aborted) throw error;
      throw new PageError(
        `The browser could not be used: ${firstLine(error)}`,
        address,
        'Start it with --remote-debugging-port=9222 and give the address that it prints.',
      );
    }
  }

  isConnected(): boolean {
    return this.browser.isConnected();
  }

  /** Ends the browser, by force when it does not end by itself, and the proxy. Never fails. */
  async close(): Promise<void> {
    await within(END_MS, this.browser.close(), undefined, 'Chromium').catch(() => this.kill());
    await this.proxy?.close();
  }

  /** Ends the browser at once. */
  kill(): void {
    if (this.pid === undefined) return void this.browser.close().catch(() => undefined);
    try {
      process.kill(this.pid, 'SIGKILL');
    } catch {
      // It has ended already.
    }
  }
}

/** A picture that fails is no reason to give up: it is only to warm up. */
export async function warmUp(browser: Browser, signal?: AbortSignal): Promise<void> {
  const context = await within(START_MS, browser.newContext(), signal, 'Chromium');
  const page = await within(START_MS, context.newPage(), signal, 'Chromium');
  await within(START_MS, page.setContent(WARM_UP), signal, 'Chromium');
  for (let attempt = 0; attempt < 2; attempt++) {
    const taken = await within(12_000, page.screenshot({ timeout: 10_000 }), signal).catch(() => undefined);
    signal?.throwIfAborted();
    if (taken) break;
  }
  await within(5000, page.waitForTimeout(1000), signal, 'Chromium');
  await within(10_000, context.close(), signal, 'Chromium');
}

async function processOf(browser: Browser): Promise<number | undefined> {
  const session = await browser.newBrowserCDPSession();
  const info = await within(10_000, session.send('SystemInfo.getProcessInfo'), undefined, 'Chromium').catch(
    () => undefined,
  );
  await session.detach().catch(() => undefined);
  return info?.processInfo.find((p) => p.type === 'browser')?.id;
}

/** What went wrong, in one line. */
export function firstLine(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split('\n')[0] ?? '';
}
