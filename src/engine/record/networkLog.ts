import type { CDPSession } from 'playwright-core';
import { redactHeaders } from '../../core/capture/redact';
import { MAX_REDIRECTS } from '../../core/capture/redirects';
import type { ProxiedConnection } from '../net/filterProxy';
import { DeadlineError, within } from './deadline';
import { LEAST_MS } from './pauses';
import { placeOf, proxyFault } from './proxyFaults';
import type { Header, HostCertificate, LedOn, Priority } from '../../core/capture/capture';
import {
  fill,
  KINDS,
  pairs,
  readInitiator,
  type ProtocolInitiator,
  type ProtocolResponse,
  type SeenLoad,
} from './seenLoad';

/** Stretches without a byte that are noted of one load, at most. */
const MOST_RESTS = 50;

/** Link headers of Early Hints that are kept of one load, at most. */
const MOST_LINKS = 200;

/** A page that was opened before this one and led on by itself. */
export interface LeftPage {
  readonly url: string;
  readonly by: LedOn['by'];
  readonly ms: number;
}

/** Listens to the network of one tab and keeps every load with its body. */
export class NetworkLog {
  readonly loads: SeenLoad[] = [];
  /** Wall clock of the first request, ms. */
  firstWallMs = 0;
  firstS = 0;
  /** Pages that led on to the one whose loads these are, in their order. */
  readonly left: LeftPage[] = [];
  /** Address of what the tab shows an error instead of. */
  unreachable?: string;
  /** Id of the tab's own frame. */
  mainFrame = '';
  /** By host, of the first answer that came over TLS. */
  readonly certificates: HostCertificate[] = [];
  private readonly byId = new Map<string, SeenLoad>();
  /** Loads of a request, its redirects first: cookies are told apart from answers, in the same order. */
  private readonly chains = new Map<string, { loads: SeenLoad[]; told: number; early: Header[][] }>();
  private readonly bodies: Promise<void>[] = [];
  private readonly leftDocuments = new Set<string>();
  /** Documents that the tab has shown: what is downloaded, or answers 204, is asked for like one and never is one. */
  private readonly shown = new Set<string>();
  private leadsOnBy: LedOn['by'] = 'script';
  private lastActivity = Date.now();

  private constructor(private readonly session: CDPSession) {}

  static async start(session: CDPSession): Promise<NetworkLog> {
    const log = new NetworkLog(session);
    const tree = (await session.send('Page.getFrameTree')) as { frameTree: { frame: { id: string } } };
    log.mainFrame = tree.frameTree.frame.id;
    session.on('Network.requestWillBeSent', (e) => log.onRequest(e as never));
    session.on('Network.responseReceived', (e) => log.onResponse(e as never));
    session.on('Network.responseReceivedExtraInfo', (e) => log.onCookies(e as never));
    session.on('Network.responseReceivedEarlyHints', (e) => log.onEarlyHints(e as never));
    session.on('Network.dataReceived', (e) => log.onData(e as never));
    session.on('Network.loadingFinished', (e) => log.onFinished(e as never));
    session.on('Network.loadingFailed', (e) => log.onFailed(e as never));
    session.on('Page.frameRequestedNavigation', (e) => log.onLeading(e));
    session.on('Page.frameNavigated', (e) => log.onNavigated(e.frame));
    session.on('Network.resourceChangedPriority', () => (log.lastActivity = Date.now()));
    await session.send('Network.enable', { maxTotalBufferSize: 256 << 20, maxResourceBufferSize: 128 << 20 });
    await session.send('Network.setCacheDisabled', { cacheDisabled: false });
    return log;
  }

  /** Milliseconds since anything happened on the network. */
  get quietMs(): number {
    return Date.now() - this.lastActivity;
  }

  get pending(): number {
    return this.loads.filter((l) => l.endS === undefined).length;
  }

  /** Waits for the bodies that were asked for, no longer than stated: a page that hangs gives none. */
  async settleBodies(ms: number, signal?: AbortSignal): Promise<boolean> {
    return within(ms, Promise.all(this.bodies), signal).then(
      () => true,
      (error: unknown) => {
        if (error instanceof DeadlineError) return false;
        throw error;
      },
    );
  }

  /** What was asked for as a page and did not become one counts as any other load. */
  tellDownloads(): void {
    if (this.shown.size === 0) return;
    for (const load of this.loads) if (load.kind === 'document' && !this.shown.has(load.document)) load.kind = 'other';
  }

  /** What went wrong with a load's connection in the proxy, and where it really led. */
  readProxy(connections: readonly ProxiedConnection[]): void {
    for (const load of this.loads) {
      const own = connections.filter((c) => `${c.host}:${c.port}` === placeOf(load.url));
      const fault = own.find((c) => c.fault !== undefined)?.fault;
      if (load.status === 0 && load.error?.includes('SOCKS') && fault) load.error = proxyFault(fault);
      const answered = own.filter((c) => c.address !== undefined);
      if (load.status === 0 || answered.length === 0) continue;
      const wall = this.firstWallMs + (load.startS - this.firstS) * 1000;
      const nearest = answered.reduce((a, b) => (Math.abs(b.askedAt - wall) < Math.abs(a.askedAt - wall) ? b : a));
      load.address = nearest.address;
      load.port = nearest.addressPort;
      const t = load.timing;
      // The browser counts the name lookup of the proxy as part of connecting.
      if (t && t.connectStart >= 0 && nearest.dnsMs > 0) {
        const dnsMs = Math.min(
          nearest.dnsMs,
          Math.max(0, (t.sslStart >= 0 ? t.sslStart : t.connectEnd) - t.connectStart),
        );
        load.timing = {
          ...t,
          dnsStart: t.connectStart,
          dnsEnd: t.connectStart + dnsMs,
          connectStart: t.connectStart + dnsMs,
        };
      }
    }
  }

  private onLeading({ frameId, reason }: { frameId: string; reason: string }): void {
    if (frameId !== this.mainFrame) return;
    this.leadsOnBy = /Refresh$/.test(reason) ? 'refresh' : /^form/.test(reason) ? 'form' : 'script';
  }

  /** The page has been left for another one: what was loaded until then is not the other one's. */
  private onNavigated(frame: { id: string; loaderId: string; unreachableUrl?: string }): void {
    const { id, loaderId } = frame;
    if (id !== this.mainFrame) return;
    this.unreachable = frame.unreachableUrl;
    this.shown.add(loaderId);
    const at = this.loads.findIndex((l) => l.kind === 'document' && l.document === loaderId);
    const next = this.loads[at];
    const from = this.loads.slice(0, Math.max(0, at)).findLast((l) => l.kind === 'document');
    if (!next || !from) return;
    if (this.left.length < MAX_REDIRECTS)
      this.left.push({ url: from.url, by: this.leadsOnBy, ms: (next.startS - from.startS) * 1000 });
    this.leadsOnBy = 'script';
    this.leftDocuments.add(from.document);
    const stay = this.loads.filter((l, i) => i >= at && !this.leftDocuments.has(l.document));
    this.loads.splice(0, this.loads.length, ...stay);
    this.firstWallMs = next.wallMs;
    this.firstS = next.startS;
    next.initiator = { type: 'navigation' };
  }

  private onRequest(e: {
    requestId: string;
    loaderId: string;
    request: { url: string; method: string; headers: Record<string, string>; initialPriority: Priority };
    timestamp: number;
    wallTime: number;
    type?: string;
    frameId?: string;
    initiator: ProtocolInitiator;
    redirectResponse?: ProtocolResponse;
  }): void {
    this.lastActivity = Date.now();
    if (/^(data|blob|chrome|about|devtools):/i.test(e.request.url)) return;
    const before = this.byId.get(e.requestId);
    if (before && e.redirectResponse) {
      fill(before, e.redirectResponse);
      this.noteCertificate(before.url, e.redirectResponse);
      before.endS = e.timestamp;
      before.wireBytes = Math.max(before.wireBytes, e.redirectResponse.encodedDataLength);
      before.redirectUrl = e.request.url;
    }
    if (this.loads.length === 0) {
      this.firstWallMs = e.wallTime * 1000;
      this.firstS = e.timestamp;
    }
    const kind = KINDS[e.type ?? ''] ?? 'other';
    const load: SeenLoad = {
      url: e.request.url,
      method: e.request.method,
      kind: kind === 'document' && e.frameId !== this.mainFrame ? 'frame' : kind,
      startS: e.timestamp,
      wallMs: e.wallTime * 1000,
      document: e.loaderId,
      priority: e.request.initialPriority,
      initiator:
        before && e.redirectResponse ? { type: 'redirect' } : readInitiator(e.initiator, this.loads.length === 0),
      requestHeaders: pairs(e.request.headers),
      responseHeaders: [],
      status: 0,
      statusText: '',
      mimeType: '',
      protocol: '',
      atHeaders: 0,
      parts: 0,
      wireBytes: 0,
      decodedBytes: 0,
      rests: [],
    };
    this.loads.push(load);
    this.byId.set(e.requestId, load);
    const chain = this.chainOf(e.requestId);
    const early = chain.early.shift();
    if (early) load.cookies = early;
    chain.loads.push(load);
  }

  private chainOf(id: string) {
    const chain = this.chains.get(id) ?? { loads: [], told: 0, early: [] };
    this.chains.set(id, chain);
    return chain;
  }

  /** Set-Cookie is kept from the ordinary report of an answer; values never leave here. */
  private onCookies(e: { requestId: string; headers: Record<string, string> }): void {
    const lines = redactHeaders(pairs(e.headers).filter((h) => /^set-cookie$/i.test(h.name)));
    const chain = this.chainOf(e.requestId);
    const load = chain.loads[chain.told];
    if (load) load.cookies = lines;
    else chain.early.push(lines);
    chain.told++;
  }

  private onEarlyHints(e: { requestId: string; headers: Record<string, string> }): void {
    this.lastActivity = Date.now();
    const load = this.byId.get(e.requestId);
    const links = pairs(e.headers).flatMap((h) => (/^link$/i.test(h.name) ? [h.value] : []));
    if (load && links.length > 0) load.earlyLinks = [...(load.earlyLinks ?? []), ...links].slice(0, MOST_LINKS);
  }

  private noteCertificate(url: string, r: ProtocolResponse): void {
    const d = r.securityDetails;
    const host = URL.canParse(url) ? new URL(url).hostname : '';
    if (!d || this.certificates.some((c) => c.host === host)) return;
    this.certificates.push({
      host,
      subject: d.subjectName,
      issuer: d.issuer,
      names: d.sanList,
      validFrom: new Date(d.validFrom * 1000).toISOString(),
      validTo: new Date(d.validTo * 1000).toISOString(),
      protocol: d.protocol,
    });
  }

  private onResponse(e: { requestId: string; timestamp: number; response: ProtocolResponse }): void {
    this.lastActivity = Date.now();
    const load = this.byId.get(e.requestId);
    if (!load) return;
    fill(load, e.response);
    load.lastByteS = e.timestamp;
    this.noteCertificate(load.url, e.response);
  }

  private onData(e: { requestId: string; timestamp: number; dataLength: number; encodedDataLength: number }): void {
    this.lastActivity = Date.now();
    const load = this.byId.get(e.requestId);
    if (!load) return;
    const { lastByteS: fromS, decodedBytes: before } = load;
    if (fromS !== undefined && (e.timestamp - fromS) * 1000 >= LEAST_MS && load.rests.length < MOST_RESTS)
      load.rests.push({ fromS, toS: e.timestamp, before });
    load.lastByteS = e.timestamp;
    load.decodedBytes += e.dataLength;
    load.parts += Math.max(0, e.encodedDataLength);
  }

  private onFinished(e: { requestId: string; timestamp: number; encodedDataLength: number }): void {
    this.lastActivity = Date.now();
    const load = this.byId.get(e.requestId);
    if (!load) return;
    load.endS = e.timestamp;
    load.wireBytes = e.encodedDataLength;
    this.bodies.push(
      this.session
        .send('Network.getResponseBody', { requestId: e.requestId })
        .then((r) => {
          load.body = Buffer.from(r.body, r.base64Encoded ? 'base64' : 'utf8');
        })
        .catch(() => undefined),
    );
  }

  private onFailed(e: {
    requestId: string;
    timestamp: number;
    errorText: string;
    blockedReason?: string;
    canceled?: boolean;
  }): void {
    this.lastActivity = Date.now();
    const load = this.byId.get(e.requestId);
    if (!load) return;
    load.endS = e.timestamp;
    load.mixedBlocked = e.blockedReason === 'mixed-content' || undefined;
    load.error = load.mixedBlocked
      ? 'refused by the browser: mixed content'
      : e.errorText || (e.canceled ? 'cancelled' : 'failed');
  }
}
