import type { BrowserContext, CDPSession, Page } from 'playwright-core';
import type { Handshake, ServerOrder } from '../../core/capture/capture';
import type { ScriptUse } from '../../core/capture/scriptUse';
import { InputError, PageError } from '../../core/capture/errors';
import { stepSecrets, type Step } from '../../core/capture/steps';
import type { Visitor } from '../../core/load/visitors';
import { ownOrigins } from '../../core/site/ownOrigin';
import { Guard } from '../net/guard';
import { askServers } from './askServers';
import { handshakesAgain } from './handshakes';
import { firstLine, RecordingBrowser } from './browser';
import { conditionsOf } from './conditions';
import { DeadlineError, within } from './deadline';
import { contextFor } from './screen';
import { COLLECT_SCRIPT, OBSERVER_SCRIPT, WORLD, type PageFacts } from './inPage';
import { NetworkLog } from './networkLog';
import { leadsNowhere } from './openFaults';
import { navigate, seen, settle } from './openPage';
import { secretValues, sendSecrets } from './ownRequests';
import { ranByReload } from './scriptCoverage';
import { stoppedLoading } from './stoppedLoading';
import { endTrace, mainThreadWork, startTrace } from './trace';
import { takeSteps, type BrowserState } from './takeSteps';
import { checkElsewhere, refusePrivate } from './refusals';
import { mergeRuns } from './runs';
import { harPage, type HarPage } from './writeHar';

/** Longest waits for answers, in ms. */
const COLLECT_MS = 20_000;
const PICTURE_MS = 15_000;
const BODIES_MS = 20_000;
const TRACE_MS = 30_000;
const PROTOCOL_MS = 15_000;
const ASK_MS = 30_000;
/**
 * A new tab is busy with itself: a page opened in it at once paints up to three times as late, another time by another
 * amount (first paint of a page of 300 boxes: 180 to 464 ms at once, 136 to 204 after this). Visitors' tabs are there already.
 */
const TAB_MS = 700;

/** How to record. */
export interface RecordOptions {
  readonly visitor: Visitor;
  readonly mapHosts?: readonly string[];
  readonly acceptAnyCertificate?: boolean;
  /** Allow loopback, link-local and private addresses. */
  readonly allowPrivate?: boolean;
  /** Ports of this machine that are never opened: our own server listens there. */
  readonly ownPorts?: readonly number[];
  /** Sent to the pages' own origins only, as the password is. */
  readonly headers?: Readonly<Record<string, string>>;
  readonly basicAuth?: { readonly username: string; readonly password: string };
  /** `recorded`: as the machine's link is. `visitor`: slowed to the visitor's. */
  readonly network?: 'recorded' | 'visitor';
  /** Quiet time on the network that counts as done. */
  readonly waitMs?: number;
  readonly timeoutMs?: number;
  /** How long a new tab is left alone before it opens the page, in ms; 700 if not stated. */
  readonly tabMs?: number;
  /** How long the page may take to answer our script before it counts as hanging, in ms; 20 s if not stated. */
  readonly answerMs?: number;
  readonly runs?: number;
  /** Taken once before the first page: recordings begin with the cookies and local storage that they leave. */
  readonly steps?: readonly Step[];
  /** Hosts that are not asked for anything. */
  readonly blockHosts?: readonly string[];
  /** What has to be on the page, beyond quiet on the network, before it counts as loaded; a CSS selector. */
  readonly waitFor?: string;
  /** Debugging address of a browser that runs already: it is used instead of one of our own. Needs `allowPrivate`. */
  readonly browser?: string;
  /** Whether pages may install service workers; off if not stated. */
  readonly serviceWorkers?: 'on' | 'off';
  readonly onProgress?: (text: string) => void;
  readonly signal?: AbortSignal;
}

/**
 * Records pages one after the other in one browser that has been warmed up, each in a fresh profile with an empty
 * cache: visitors' browsers have been running for a while too. What a page that never settles, or stops answering, has
 * loaded by the time limit is kept, with a note. Headers and password go to the origins of the pages alone.
 * @throws PageError when the page cannot be reached or the browser fails; the reason of the signal within 2 s of a stop
 */
export async function recordPages(urls: readonly string[], options: RecordOptions): Promise<HarPage[]> {
  const reach = {
    allowPrivate: options.allowPrivate ?? false,
    mapHosts: options.mapHosts ?? [],
    ownPorts: options.ownPorts,
  };
  if (options.browser !== undefined) checkElsewhere(options.browser, options);
  const guard = new Guard(reach);
  for (const url of urls) await refusePrivate(url, guard);
  const out: HarPage[] = [];
  let browser: RecordingBrowser | undefined;
  const asked: Asked = { servers: new Map(), handshakes: new Map() };
  const own = ownOrigins(urls);
  const secrets = stepSecrets(options.steps ?? [], process.env);
  for (const step of options.steps ?? []) if (step.do === 'open') await refusePrivate(step.url, guard);
  let state: BrowserState | undefined;
  const stop = () => browser?.kill();
  options.signal?.addEventListener('abort', stop, { once: true });
  try {
    for (const url of urls) {
      const runs: HarPage[] = [];
      for (let run = 0; run < (options.runs ?? 1); run++) {
        options.signal?.throwIfAborted();
        options.onProgress?.(`${url}${(options.runs ?? 1) > 1 ? ` run ${run + 1}` : ''}`);
        if (!browser?.isConnected()) {
          await browser?.close();
          browser =
            options.browser === undefined
              ? await RecordingBrowser.start(
                  guard,
                  { ...reach, acceptAnyCertificate: options.acceptAnyCertificate },
                  options.signal,
                )
              : await RecordingBrowser.connect(options.browser, options.signal);
        }
        if (options.steps && !state) {
          options.onProgress?.('taking steps');
          state = await takeSteps(browser, options.steps, {
            context: contextOf(options, browser.browser.version()),
            secrets,
            ready: async (page, context) => {
              const session = await context.newCDPSession(page);
              await sendSecrets(session, { ...options, own });
              await blockHosts(session, options.blockHosts ?? []);
            },
            signal: options.signal,
          });
        }
        const more = { own, state, filledIn: [...secrets.values()] };
        const last = run > 0 && run + 1 === options.runs;
        runs.push(await recordOnce(browser, url, { ...options, ...more, last }, out.length, asked));
      }
      out.push(mergeRuns(runs));
    }
    return out;
  } finally {
    options.signal?.removeEventListener('abort', stop);
    if (options.signal?.aborted) browser?.kill();
    await browser?.close();
  }
}

/** A profile for one recording. */
const contextOf = ({ visitor, serviceWorkers, browser, acceptAnyCertificate }: RecordOptions, version: string) => ({
  ...contextFor(visitor, version, serviceWorkers),
  // Of a browser of our own a switch does it, which costs no time.
  ...(browser !== undefined && { ignoreHTTPSErrors: acceptAnyCertificate }),
});

/** What servers have told in the runs so far, by origin. */
interface Asked {
  readonly servers: Map<string, ServerOrder>;
  readonly handshakes: Map<string, Handshake>;
}

/** Options of one run, with what the steps before it have left. */
type RunOptions = RecordOptions & {
  readonly own: (url: string) => boolean;
  readonly state?: BrowserState;
  readonly filledIn: readonly string[];
  /** The last of several runs. */
  readonly last: boolean;
};

async function recordOnce(
  started: RecordingBrowser,
  url: string,
  options: RunOptions,
  number: number,
  asked: Asked,
): Promise<HarPage> {
  const { signal } = options;
  const { browser } = started;
  let context: BrowserContext | undefined;
  let hangs = false;
  try {
    context = await within(
      PROTOCOL_MS,
      browser.newContext({ ...contextOf(options, browser.version()), storageState: options.state }),
      signal,
      'Chromium',
    );
    const { page, session } = await within(PROTOCOL_MS, openTab(context, options), signal, 'Chromium');
    const log = await within(PROTOCOL_MS, NetworkLog.start(session), signal, 'Chromium');
    const tracing = await within(PROTOCOL_MS, startTrace(browser), signal, 'Chromium');
    await within(PROTOCOL_MS, page.waitForTimeout(options.tabMs ?? TAB_MS), signal, 'Chromium');
    const notes: string[] = [];
    const timeoutMs = options.timeoutMs ?? 45_000;
    const connections = started.proxy?.connections ?? [];
    const first = connections.length;
    const until = Date.now() + timeoutMs;
    const stopped = stoppedLoading(session, log.mainFrame);
    const faults = () => log.readProxy(connections.slice(first));
    await navigate(page, url, timeoutMs, { notes, log, stopped, signal, faults });
    if (options.waitFor !== undefined) await seen(page, options.waitFor, until, notes, signal);
    const answerMs = options.answerMs ?? COLLECT_MS;
    await settle(session, log, { quietMs: options.waitMs ?? 1500, until, turnMs: answerMs }, notes, signal);
    for (const host of options.blockHosts ?? []) notes.push(`Requests to ${host} were blocked on wish.`);
    if (options.serviceWorkers === 'on')
      notes.push('Service workers were on: what they answered came over no network.');
    if (options.browser !== undefined) notes.push('Recorded in a browser that was running already.');
    if (log.unreachable !== undefined) {
      log.readProxy(connections.slice(first));
      throw leadsNowhere(log, log.unreachable, url);
    }
    const facts = await collect(session, answerMs, signal).catch((error: unknown) => {
      if (!(error instanceof DeadlineError)) throw error;
      hangs = true;
      notes.push(
        'The page stopped answering: what the network had brought is kept; hero and displayed sizes are estimates.',
      );
      return undefined;
    });
    const screenshot = hangs
      ? undefined
      : await within(
          PICTURE_MS + 2000,
          page.screenshot({ type: 'jpeg', quality: 72, scale: 'css', timeout: PICTURE_MS }),
          signal,
        ).catch(() => undefined);
    signal?.throwIfAborted();
    if (!(await log.settleBodies(hangs ? 2000 : BODIES_MS, signal)) && !hangs)
      notes.push('The browser did not hand over every file in time: some contents are missing.');
    const events = hangs ? [] : await endTrace(tracing, TRACE_MS, signal);
    const zeroS = facts ? log.firstS - (log.firstWallMs - facts.timeOrigin) / 1000 : log.firstS;
    log.readProxy(connections.slice(first));
    log.tellDownloads();
    const conditions = await within(ASK_MS, conditionsOf(options, log), signal, 'The server');
    const order = await within(
      ASK_MS,
      askServers(log.loads, options.acceptAnyCertificate ?? false, asked.servers),
      signal,
      'The server',
    );
    // Where the browser itself is slowed, what another program takes says nothing.
    const handshakes =
      options.network === 'visitor'
        ? []
        : await within(ASK_MS, handshakesAgain(log.loads, conditions.rttMs, asked.handshakes), signal, 'The server');
    const finalUrl = page.url();
    const scripts = options.last && !hangs ? await ranScripts({ context, page, session }, log, options) : undefined;
    return harPage({
      id: `page_${number + 1}`,
      finalUrl,
      log,
      facts,
      work: mainThreadWork(events, zeroS),
      scripts,
      screenshot,
      zeroS,
      conditions,
      browserVersion: browser.version(),
      notes,
      servers: order,
      handshakes,
      secrets: [...secretValues(options), ...options.filledIn],
    });
  } catch (error) {
    if (error instanceof InputError) throw error;
    signal?.throwIfAborted();
    hangs ||= error instanceof DeadlineError;
    throw new PageError(
      `The recording broke off: ${firstLine(error)}`,
      url,
      'Try once more; with --wait for slow pages.',
    );
  } finally {
    // A tab that hangs cannot be closed: its browser goes with it.
    if (hangs || signal?.aborted) started.kill();
    else if (context) await within(PROTOCOL_MS, context.close(), undefined, 'Chromium').catch(() => started.kill());
  }
}

/** How much of each script file ran, seen in one more load of the page of which nothing else is kept. */
async function ranScripts(
  { context, page, session }: { context: BrowserContext; page: Page; session: CDPSession },
  log: NetworkLog,
  options: RunOptions,
): Promise<ScriptUse[] | undefined> {
  const files = new Set(log.loads.filter((l) => l.kind === 'script').map((l) => l.url));
  if (files.size === 0) return [];
  return ranByReload(page, files, options.signal, async () => {
    // What the log has seen by now is all that it is to see.
    await session.detach();
    const other = await context.newCDPSession(page);
    await sendSecrets(other, options);
    await blockHosts(other, options.blockHosts ?? []);
    return other;
  });
}

/** A tab with our scripts in a world of their own; what pages open besides is closed. */
async function openTab(context: BrowserContext, options: RunOptions): Promise<{ page: Page; session: CDPSession }> {
  const page = await context.newPage();
  context.on('page', (other) => void other.close().catch(() => undefined));
  page.on('dialog', (dialog) => void dialog.dismiss().catch(() => undefined));
  const session = await context.newCDPSession(page);
  await session.send('Page.enable');
  await session.send('Page.addScriptToEvaluateOnNewDocument', { source: OBSERVER_SCRIPT, worldName: WORLD });
  await sendSecrets(session, options);
  await blockHosts(session, options.blockHosts ?? []);
  if (options.network === 'visitor') {
    const { visitor } = options;
    await session.send('Network.enable');
    await session.send('Network.emulateNetworkConditions', {
      offline: false,
      latency: visitor.rttMs,
      downloadThroughput: visitor.downKbps * 125,
      uploadThroughput: visitor.upKbps * 125,
    });
    await session.send('Emulation.setCPUThrottlingRate', { rate: visitor.cpuFactor });
  }
  return { page, session };
}

/** Lets a tab ask some hosts for nothing. */
async function blockHosts(session: CDPSession, hosts: readonly string[]): Promise<void> {
  if (hosts.length === 0) return;
  await session.send('Network.enable');
  await session.send('Network.setBlockedURLs', { urls: hosts.flatMap((host) => [`*://${host}/*`, `*://${host}:*/*`]) });
}

/** What the page tells of itself. @throws DeadlineError when it does not answer */
async function collect(session: CDPSession, ms: number, signal: AbortSignal | undefined): Promise<PageFacts> {
  const evaluate = async (): Promise<PageFacts> => {
    const { frameTree } = await session.send('Page.getFrameTree');
    const { executionContextId } = await session.send('Page.createIsolatedWorld', {
      frameId: frameTree.frame.id,
      worldName: WORLD,
    });
    const { result, exceptionDetails } = await session.send('Runtime.evaluate', {
      expression: COLLECT_SCRIPT,
      contextId: executionContextId,
      returnByValue: true,
      timeout: ms,
    });
    if (exceptionDetails || result.value === undefined)
      throw new DeadlineError(`The page told nothing: ${exceptionDetails?.text ?? 'no value'}`);
    return result.value as PageFacts;
  };
  return within(ms + 1000, evaluate(), signal);
}
