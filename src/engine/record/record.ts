import dns from 'node:dns/promises';
import net from 'node:net';
import { chromium, type Browser, type BrowserContext, type Page } from 'playwright-core';
import type { Conditions, ServerOrder } from '../../core/capture/capture';
import { InputError, PageError } from '../../core/capture/errors';
import type { Visitor } from '../../core/load/visitors';
import { isPrivateAddress } from '../net/privateAddress';
import { askServers, roundTripTo } from './askServers';
import { browserSwitches, findChromium } from './chromium';
import { COLLECT_SCRIPT, OBSERVER_SCRIPT, type PageFacts } from './inPage';
import { NetworkLog } from './networkLog';
import { endTrace, mainThreadWork, startTrace } from './trace';
import { harPage, withOtherRuns, type HarPage } from './writeHar';

/** How to record. */
export interface RecordOptions {
  readonly visitor: Visitor;
  readonly mapHosts?: readonly string[];
  readonly acceptAnyCertificate?: boolean;
  /** Allow loopback, link-local and private addresses. */
  readonly allowPrivate?: boolean;
  readonly headers?: Readonly<Record<string, string>>;
  readonly basicAuth?: { readonly username: string; readonly password: string };
  /** `recorded`: as the machine's link is. `visitor`: slowed to the visitor's. */
  readonly network?: 'recorded' | 'visitor';
  /** Quiet time on the network that counts as done. */
  readonly waitMs?: number;
  readonly timeoutMs?: number;
  readonly runs?: number;
  readonly onProgress?: (text: string) => void;
  readonly signal?: AbortSignal;
}

/**
 * Records pages one after the other in one browser that has been warmed up, each in a fresh profile with an empty
 * cache: visitors' browsers have been running for a while too. What a page that never settles has loaded by the time
 * limit is kept, with a note.
 * @throws PageError when the page cannot be reached or the browser fails.
 */
export async function recordPages(urls: readonly string[], options: RecordOptions): Promise<HarPage[]> {
  for (const url of urls) await refusePrivate(url, options);
  const out: HarPage[] = [];
  let browser: Browser | undefined;
  const servers = new Map<string, ServerOrder>();
  try {
    for (const url of urls) {
      const runs: HarPage[] = [];
      for (let run = 0; run < (options.runs ?? 1); run++) {
        options.signal?.throwIfAborted();
        options.onProgress?.(`${url}${(options.runs ?? 1) > 1 ? ` run ${run + 1}` : ''}`);
        if (!browser?.isConnected()) browser = await startWarm(options);
        runs.push(await recordOnce(browser, url, options, out.length, servers));
      }
      // Of several runs the one with the middle hero paint speaks for all.
      runs.sort((a, b) => (a.lcpMs ?? Infinity) - (b.lcpMs ?? Infinity));
      const middle = runs[Math.floor((runs.length - 1) / 2)] as HarPage;
      out.push(
        withOtherRuns(
          middle,
          runs.filter((r) => r !== middle),
        ),
      );
    }
    return out;
  } finally {
    await browser?.close().catch(() => undefined);
  }
}

/** Text, a picture and a script: what a browser does for the first time takes longer. */
const WARM_UP = `<style>p{font-family:serif}div{font-family:sans-serif}code{font-family:monospace}</style><h1>Warm</h1><p>up</p><div>the <code>browser</code></div>
<img src="data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==" width="200" height="200"><script>document.title='warm'</script>`;

/** Starts a browser and lets it get over its first second. @throws PageError when it does not start. */
async function startWarm(options: RecordOptions): Promise<Browser> {
  let browser: Browser;
  try {
    browser = await chromium.launch({
      executablePath: findChromium(),
      headless: true,
      args: browserSwitches(options.mapHosts ?? [], options.acceptAnyCertificate),
    });
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new PageError(`Chromium did not start: ${firstLine(error)}`, findChromium(), 'Start it by hand to see why.');
  }
  try {
    const context = await browser.newContext();
    const page = await context.newPage();
    await page.setContent(WARM_UP);
    await page.screenshot({ timeout: 10_000 });
    await page.waitForTimeout(1000);
    await context.close();
    return browser;
  } catch (error) {
    await browser.close().catch(() => undefined);
    throw new PageError(`Chromium broke off: ${firstLine(error)}`, findChromium(), 'Start it by hand to see why.');
  }
}

async function recordOnce(
  browser: Browser,
  url: string,
  options: RecordOptions,
  number: number,
  servers: Map<string, ServerOrder>,
): Promise<HarPage> {
  const { visitor } = options;
  const stop = () => void browser.close().catch(() => undefined);
  options.signal?.addEventListener('abort', stop, { once: true });
  let context: BrowserContext | undefined;
  try {
    context = await browser.newContext({
      viewport: { width: visitor.screenWidth, height: visitor.screenHeight },
      deviceScaleFactor: visitor.density,
      isMobile: visitor.touch,
      hasTouch: visitor.touch,
      userAgent: visitor.touch ? phoneAgent(browser.version()) : undefined,
      extraHTTPHeaders: options.headers ? { ...options.headers } : undefined,
      httpCredentials: options.basicAuth,
      serviceWorkers: 'block',
    });
    await context.addInitScript(OBSERVER_SCRIPT);
    const page = await context.newPage();
    const session = await context.newCDPSession(page);
    await session.send('Page.enable');
    if (options.network === 'visitor') {
      await session.send('Network.enable');
      await session.send('Network.emulateNetworkConditions', {
        offline: false,
        latency: visitor.rttMs,
        downloadThroughput: visitor.downKbps * 125,
        uploadThroughput: visitor.upKbps * 125,
      });
      await session.send('Emulation.setCPUThrottlingRate', { rate: visitor.cpuFactor });
    }
    const log = await NetworkLog.start(session);
    const tracing = await startTrace(browser);
    const notes: string[] = [];
    const timeoutMs = options.timeoutMs ?? 45_000;
    const startedAt = Date.now();
    await navigate(page, url, timeoutMs, notes, log);
    await settle(page, log, options.waitMs ?? 1500, startedAt + timeoutMs, notes, options.signal);
    const facts = (await page.evaluate(COLLECT_SCRIPT)) as PageFacts;
    const screenshot = await page
      .screenshot({ type: 'jpeg', quality: 72, scale: 'css', timeout: 15_000 })
      .catch(() => undefined);
    await log.settleBodies();
    const events = await endTrace(tracing);
    const zeroS = log.firstS - (log.firstWallMs - facts.timeOrigin) / 1000;
    return harPage({
      id: `page_${number + 1}`,
      finalUrl: page.url(),
      log,
      facts,
      work: mainThreadWork(events, zeroS),
      screenshot,
      zeroS,
      conditions: await conditionsOf(options, log),
      browserVersion: browser.version(),
      notes,
      servers: await askServers(log.loads, options.acceptAnyCertificate ?? false, servers),
    });
  } catch (error) {
    if (error instanceof InputError || options.signal?.aborted) throw error;
    throw new PageError(
      `The recording broke off: ${firstLine(error)}`,
      url,
      'Try once more; with --wait for slow pages.',
    );
  } finally {
    options.signal?.removeEventListener('abort', stop);
    await context?.close().catch(() => undefined);
  }
}

async function navigate(page: Page, url: string, timeoutMs: number, notes: string[], log: NetworkLog): Promise<void> {
  try {
    await page.goto(url, { waitUntil: 'load', timeout: timeoutMs });
  } catch (error) {
    const text = firstLine(error);
    if (/Timeout/i.test(text) && log.loads.some((l) => l.status > 0)) {
      notes.push(`The page had not finished loading after ${Math.round(timeoutMs / 1000)} s: kept what had arrived.`);
      return;
    }
    const code = /net::(ERR_[A-Z_]+)/.exec(text)?.[1] ?? (/Timeout/i.test(text) ? 'no answer in time' : text);
    throw new PageError(`The page could not be opened: ${code}.`, url, nextFor(code));
  }
}

function nextFor(code: string): string {
  if (/CERT/.test(code))
    return 'The certificate is not valid for this host. To record it all the same use --accept-any-certificate.';
  if (/NAME_NOT_RESOLVED/.test(code)) return 'Check the spelling of the host, or give its address with --map-host.';
  if (/REFUSED|UNREACHABLE|TIMED_OUT|no answer/.test(code)) return 'Is the server up and reachable from this machine?';
  if (/TOO_MANY_REDIRECTS/.test(code)) return 'The address redirects in a circle: see HTTPS coverage.';
  return 'Open it in a browser on this machine to see what it says.';
}

/** What a phone's browser of this version calls itself, in the reduced form that all of them use by now. */
function phoneAgent(version: string): string {
  const major = version.split('.')[0] ?? '120';
  return `Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/${major}.0.0.0 Mobile Safari/537.36`;
}

async function settle(
  page: Page,
  log: NetworkLog,
  quietMs: number,
  until: number,
  notes: string[],
  signal: AbortSignal | undefined,
): Promise<void> {
  while (log.quietMs < quietMs) {
    signal?.throwIfAborted();
    if (Date.now() > until) {
      notes.push(`Requests went on until the time limit; ${log.pending} were still open.`);
      return;
    }
    await page.waitForTimeout(100);
  }
}

async function conditionsOf(options: RecordOptions, log: NetworkLog): Promise<Conditions> {
  const { visitor } = options;
  const screen = {
    screenWidth: visitor.screenWidth,
    screenHeight: visitor.screenHeight,
    density: visitor.density,
    touch: visitor.touch,
  };
  if (options.network === 'visitor') {
    return {
      ...screen,
      rttMs: visitor.rttMs,
      downKbps: visitor.downKbps,
      upKbps: visitor.upKbps,
      cpuFactor: visitor.cpuFactor,
      stated: true,
    };
  }
  const rttMs = await roundTrip(log);
  const rates = log.loads
    .filter((l) => l.timing && l.endS !== undefined && l.wireBytes > 50_000)
    .map(
      (l) =>
        (l.wireBytes * 8) /
        Math.max(0.5, ((l.endS ?? 0) - (l.timing?.requestTime ?? 0)) * 1000 - (l.timing?.receiveHeadersEnd ?? 0)),
    );
  return {
    ...screen,
    rttMs: Math.round(rttMs * 100) / 100,
    downKbps: Math.round(Math.max(20_000, ...rates)),
    upKbps: 50_000,
    cpuFactor: 1,
    stated: true,
  };
}

/**
 * Round trip of the link, in ms: a handshake with the page's own server; where that is not to be had, the middle of what
 * the browser took for TCP. No answer is quicker than a round trip.
 */
async function roundTrip(log: NetworkLog): Promise<number> {
  const own = log.loads.find((l) => l.kind === 'document' && l.status === 200 && l.address);
  const port = own?.port ?? (own?.url.startsWith('https:') ? 443 : 80);
  const asked = own?.address ? await roundTripTo(own.address.replace(/^\[|\]$/g, ''), port) : undefined;
  if (asked !== undefined) return asked;
  const tcp = log.loads
    .flatMap(({ timing: t }) =>
      t && t.connectStart >= 0 ? [(t.sslStart >= 0 ? t.sslStart : t.connectEnd) - t.connectStart] : [],
    )
    .sort((a, b) => a - b);
  return tcp[Math.floor((tcp.length - 1) / 2)] ?? 1;
}

/** A public name that leads to a private address is refused unless allowed or mapped on purpose. */
async function refusePrivate(url: string, options: RecordOptions): Promise<void> {
  let host: string;
  try {
    const parsed = new URL(url);
    if (!/^https?:$/.test(parsed.protocol)) throw new Error();
    host = parsed.hostname.replace(/^\[|\]$/g, '');
  } catch {
    throw new InputError(`"${url}" is not a web address.`, 'URL', 'Write it with https:// in front.');
  }
  if (options.allowPrivate || options.mapHosts?.some((m) => m.split('=')[0]?.split(':')[0]?.toLowerCase() === host))
    return;
  const addresses = net.isIP(host)
    ? [host]
    : (await dns.lookup(host, { all: true }).catch(() => [])).map((a) => a.address);
  const inner = addresses.find(isPrivateAddress);
  if (inner)
    throw new InputError(
      `${host} leads to the private address ${inner}.`,
      url,
      'To record it all the same use --allow-private.',
    );
}

function firstLine(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split('\n')[0] ?? '';
}
