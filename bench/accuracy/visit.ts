import type { BrowserContext, Page } from 'playwright-core';
import { browserSwitches, findChromium } from '../../src/engine/record/chromium';
import { settled, turnOf } from '../../src/engine/record/settled';
import { stealMeter } from '../../src/engine/replay/steal';
import { startVisitorBrowser, type VisitorBrowserOptions } from '../../src/engine/record/visitorBrowser';
import { COLLECT_SCRIPT, OBSERVER_SCRIPT, type PageFacts } from '../../src/engine/record/inPage';
import { nearChromium } from './link';
import { addressOf, type HostSpec } from './site';

/** What one visit measured, in ms. */
export interface Visit {
  readonly ttfbMs: number;
  readonly fcpMs: number;
  readonly lcpMs: number;
  readonly loadMs: number;
  readonly cls: number;
  /** Address of the hero's file, or the path of its element. */
  readonly hero: string;
  /** Main-thread time beyond 50 ms in each task. */
  readonly longMs: number;
  /** Share of processor time that the host took away. */
  readonly steal: number;
  readonly requests: readonly RequestTimes[];
}

/** One request of a visit, in ms since it began. */
export interface RequestTimes {
  readonly url: string;
  readonly priority: string;
  readonly sentMs: number;
  readonly firstMs: number;
  readonly endMs: number;
}

/** How browsers are started on the near side. */
export type NearBrowser = Pick<VisitorBrowserOptions, 'executablePath' | 'args'>;

/** A browser on the near side that finds these hosts on the far one. */
export function browserFor(hosts: readonly HostSpec[], keyHash: string): NearBrowser {
  const map = hosts.map((h, i) => `${h.name}=${addressOf(i)}`);
  return {
    executablePath: nearChromium(findChromium()),
    args: [...browserSwitches(map), `--ignore-certificate-errors-spki-list=${keyHash}`],
  };
}

const LONG_SCRIPT = `new PerformanceObserver((list) => { window.__long = (window.__long || 0) + list.getEntries().reduce((s, e) => s + e.duration - 50, 0); }).observe({ type: 'longtask', buffered: true });`;

export interface VisitOptions {
  readonly cpuFactor: number;
  readonly screen: 'phone' | 'desktop';
  /** Ends connections between two visits. */
  readonly hangUp?: () => Promise<void>;
  /** Also visits again, with what the first visit has kept. */
  readonly again?: boolean;
}

/** One visit by a browser of its own, and one with what the first has kept if asked for. */
export async function visit(near: NearBrowser, url: string, options: VisitOptions): Promise<Visit[]> {
  const phone = options.screen === 'phone';
  const browser = await startVisitorBrowser({
    ...near,
    viewport: phone ? { width: 400, height: 860 } : { width: 1366, height: 768 },
    deviceScaleFactor: phone ? 2.5 : 1,
    isMobile: phone,
    hasTouch: phone,
    serviceWorkers: 'block',
  });
  const { context } = browser;
  try {
    await context.addInitScript(OBSERVER_SCRIPT);
    await context.addInitScript(LONG_SCRIPT);
    const first = await once(context, url, options.cpuFactor);
    if (!options.again) return [first];
    await options.hangUp?.();
    return [first, await once(context, url, options.cpuFactor)];
  } finally {
    await browser.close();
  }
}

async function once(context: BrowserContext, url: string, cpuFactor: number): Promise<Visit> {
  const page = await context.newPage();
  try {
    const session = await context.newCDPSession(page);
    await session.send('Network.enable');
    if (cpuFactor > 1) await session.send('Emulation.setCPUThrottlingRate', { rate: cpuFactor });
    const requests = new Map<
      string,
      { url: string; priority: string; sentMs: number; firstMs: number; endMs: number }
    >();
    let zero = 0;
    let open = 0;
    let changed = Date.now();
    session.on('Network.requestWillBeSent', (e) => {
      zero ||= e.timestamp;
      changed = Date.now();
      if (!requests.has(e.requestId)) open++;
      requests.set(e.requestId + (e.redirectResponse ? '+' : ''), {
        url: e.request.url,
        priority: e.request.initialPriority,
        sentMs: Math.round((e.timestamp - zero) * 1000),
        firstMs: -1,
        endMs: -1,
      });
    });
    session.on('Network.responseReceived', (e) => {
      const r = requests.get(e.requestId);
      if (r) r.firstMs = Math.round((e.timestamp - zero) * 1000);
    });
    const ended = (e: { requestId: string; timestamp: number }) => {
      const r = requests.get(e.requestId);
      if (r?.endMs !== -1) return;
      r.endMs = Math.round((e.timestamp - zero) * 1000);
      open--;
      changed = Date.now();
    };
    session.on('Network.loadingFinished', ended);
    session.on('Network.loadingFailed', ended);
    const steal = stealMeter();
    await page.goto(url, { waitUntil: 'load', timeout: 60_000 });
    const loading = { quietMs: () => (open > 0 ? 0 : Date.now() - changed), turn: turnOf(session) };
    await settled(loading, { quietMs: 900, until: Date.now() + 20_000, turnMs: 20_000 });
    const stolen = steal();
    const facts = (await page.evaluate(COLLECT_SCRIPT)) as PageFacts;
    const longMs = (await page.evaluate('window.__long || 0')) as number;
    const last = facts.largestPaints.at(-1);
    return {
      ttfbMs: facts.ttfbMs,
      fcpMs: facts.fcpMs ?? -1,
      lcpMs: last?.timeMs ?? -1,
      loadMs: facts.loadMs,
      cls: facts.cls,
      hero: last?.url ?? last?.path ?? '',
      longMs,
      steal: stolen,
      requests: [...requests.values()].sort((a, b) => a.sentMs - b.sentMs),
    };
  } finally {
    await page.close();
  }
}

export type { Page };
