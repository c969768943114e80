import type { BrowserContext, CDPSession, Page } from 'playwright-core';
import type { MeasuredLoad } from '../../core/proof/measuredLoad';
import { firstLine } from '../record/browser';
import { within } from '../record/deadline';
import { COLLECT_SCRIPT, OBSERVER_SCRIPT, WORLD, type PageFacts } from '../record/inPage';
import { settled, turnOf } from '../record/settled';
import { RequestLog } from './requestLog';
import { stealMeter } from './steal';

const LOAD_MS = 60_000;
const QUIET_MS = 900;
const SETTLE_MS = 20_000;
const ANSWER_MS = 20_000;

/** A picture of the page while it loads. */
export interface Frame {
  /** Since the navigation. */
  readonly atMs: number;
  /** JPEG. */
  readonly picture: Buffer;
}

/** One visit of a replayed page. */
export interface ReplayVisit extends MeasuredLoad {
  /** Address of the hero's file, or the path of its element. */
  readonly hero: string;
  readonly errors: readonly string[];
  /** Addresses of hosts that no recording knows. */
  readonly unreachable: readonly string[];
  /** Share of processor time that the host of this machine took away. */
  readonly steal: number;
  /** The first screen once it had settled; PNG. */
  readonly screenshot?: Buffer;
  readonly frames: readonly Frame[];
}

/** How to visit. */
export interface VisitOptions {
  readonly cpuFactor: number;
  /** The page's clock starts at this moment, in ms since 1970. */
  readonly clockMs: number;
  readonly screenshot?: boolean;
  /** Filming costs time: figures of such a visit are no measurement. */
  readonly film?: boolean;
  readonly signal?: AbortSignal;
}

/**
 * Visits a page in a browser that has seen nothing yet, with a clock that starts when it was recorded, and chance that is
 * the same every time.
 * @throws Error when the page cannot be opened
 */
export async function visitReplay(context: BrowserContext, url: string, options: VisitOptions): Promise<ReplayVisit> {
  const { signal } = options;
  const page = await within(ANSWER_MS, context.newPage(), signal, 'Chromium');
  context.on('page', (other) => void other.close().catch(() => undefined));
  page.on('dialog', (dialog) => void dialog.dismiss().catch(() => undefined));
  const session = await context.newCDPSession(page);
  await session.send('Page.enable');
  await session.send('Page.addScriptToEvaluateOnNewDocument', { source: pinned(options.clockMs) });
  await session.send('Page.addScriptToEvaluateOnNewDocument', { source: OBSERVER_SCRIPT, worldName: WORLD });
  const requests = new RequestLog(session);
  const network = await Watched.start(session);
  if (options.cpuFactor > 1) await session.send('Emulation.setCPUThrottlingRate', { rate: options.cpuFactor });
  const frames = options.film ? await film(session) : [];
  const steal = stealMeter();
  const faults: string[] = [];
  await within(LOAD_MS + 5000, page.goto(url, { waitUntil: 'load', timeout: LOAD_MS }), signal).catch(
    (error: unknown) => {
      signal?.throwIfAborted();
      if (!/Timeout/i.test(firstLine(error))) throw error;
      faults.push(`The page had not finished loading after ${LOAD_MS / 1000} s.`);
    },
  );
  const loading = { quietMs: () => network.quietMs(), turn: turnOf(session) };
  await settled(loading, { quietMs: QUIET_MS, until: Date.now() + SETTLE_MS, turnMs: ANSWER_MS }, signal);
  const stolen = steal();
  const facts = await within(ANSWER_MS, collect(session), signal, 'The page');
  if (options.cpuFactor > 1) await session.send('Emulation.setCPUThrottlingRate', { rate: 1 });
  const last = facts.largestPaints.at(-1);
  return {
    fcpMs: facts.fcpMs ?? -1,
    lcpMs: last?.timeMs ?? -1,
    loadMs: facts.loadMs > 0 ? facts.loadMs : -1,
    cls: facts.cls,
    bytes: network.bytes,
    requests: requests.since(facts.timeOrigin),
    hero: last?.url ?? last?.path ?? '',
    errors: [...faults, ...network.errors],
    unreachable: [...network.unreachable],
    steal: stolen,
    screenshot: options.screenshot ? await picture(page, signal) : undefined,
    frames: frames.map(({ wallMs, picture: jpeg }) => ({
      atMs: Math.max(0, wallMs - facts.timeOrigin),
      picture: jpeg,
    })),
  };
}

const picture = (page: Page, signal: AbortSignal | undefined): Promise<Buffer | undefined> =>
  within(ANSWER_MS, page.screenshot({ scale: 'css', animations: 'disabled', timeout: ANSWER_MS }), signal).catch(
    () => undefined,
  );

/** What the network and the console of a page say. */
class Watched {
  bytes = 0;
  readonly errors: string[] = [];
  readonly unreachable = new Set<string>();
  private readonly open = new Map<string, string>();
  private changedAt = Date.now();

  static async start(session: CDPSession): Promise<Watched> {
    const watched = new Watched();
    watched.listen(session);
    await session.send('Network.enable');
    await session.send('Runtime.enable');
    return watched;
  }

  /** How long nothing has happened on the network, in ms. */
  quietMs(): number {
    return this.open.size > 0 ? 0 : Date.now() - this.changedAt;
  }

  private listen(session: CDPSession): void {
    const ended = (id: string) => {
      this.open.delete(id);
      this.changedAt = Date.now();
    };
    session.on('Network.requestWillBeSent', (e) => {
      if (!/^https?:/.test(e.request.url)) return;
      this.open.set(e.requestId, e.request.url);
      this.changedAt = Date.now();
      this.bytes += e.redirectResponse?.encodedDataLength ?? 0;
    });
    session.on('Network.loadingFinished', (e) => {
      this.bytes += e.encodedDataLength;
      ended(e.requestId);
    });
    session.on('Network.loadingFailed', (e) => {
      const url = this.open.get(e.requestId);
      if (url && /NAME_NOT_RESOLVED|SOCKS|ADDRESS_UNREACHABLE/.test(e.errorText)) this.unreachable.add(url);
      ended(e.requestId);
    });
    session.on('Runtime.exceptionThrown', ({ exceptionDetails: d }) =>
      this.errors.push(`${d.exception?.description?.split('\n')[0] ?? d.text}${d.url ? ` (${d.url})` : ''}`),
    );
    session.on('Runtime.consoleAPICalled', (e) => {
      if (e.type === 'error')
        this.errors.push(
          e.args
            .map((a) => String(a.value ?? a.description ?? ''))
            .join(' ')
            .slice(0, 500),
        );
    });
  }
}

/** Takes pictures whenever the page has changed. */
async function film(session: CDPSession): Promise<{ wallMs: number; picture: Buffer }[]> {
  const frames: { wallMs: number; picture: Buffer }[] = [];
  session.on('Page.screencastFrame', (e) => {
    frames.push({ wallMs: (e.metadata.timestamp ?? 0) * 1000, picture: Buffer.from(e.data, 'base64') });
    session.send('Page.screencastFrameAck', { sessionId: e.sessionId }).catch(() => undefined);
  });
  await session.send('Page.startScreencast', {
    format: 'jpeg',
    quality: 60,
    maxWidth: 320,
    maxHeight: 640,
    everyNthFrame: 1,
  });
  return frames;
}

async function collect(session: CDPSession): Promise<PageFacts> {
  const { frameTree } = await session.send('Page.getFrameTree');
  const { executionContextId } = await session.send('Page.createIsolatedWorld', {
    frameId: frameTree.frame.id,
    worldName: WORLD,
  });
  const { result } = await session.send('Runtime.evaluate', {
    expression: COLLECT_SCRIPT,
    contextId: executionContextId,
    returnByValue: true,
  });
  if (result.value === undefined) throw new Error('The page told nothing.');
  return result.value as PageFacts;
}

/** Runs before the page's scripts: a clock that starts at a moment and goes on, and chance from a seed (mulberry32). */
const pinned = (clockMs: number) => `(() => {
  const RealDate = Date;
  const ahead = ${Math.round(clockMs)} - RealDate.now();
  const now = () => RealDate.now() + ahead;
  const Pinned = new Proxy(RealDate, {
    construct: (type, args, target) => Reflect.construct(type, args.length === 0 ? [now()] : args, target === Pinned ? type : target),
    apply: () => new RealDate(now()).toString(),
    get: (type, key) => (key === 'now' ? now : Reflect.get(type, key)),
  });
  RealDate.prototype.constructor = Pinned;
  window.Date = Pinned;
  let state = 7;
  Math.random = () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
})();`;
