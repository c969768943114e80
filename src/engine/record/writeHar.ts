import { isUtf8 } from 'node:buffer';
import type {
  Conditions,
  EarlyHints,
  Handshake,
  Header,
  Observations,
  ServerOrder,
  Work,
} from '../../core/capture/capture';
import { redactContent, redactHeaders, redactLinks, redactUrl, Secrets } from '../../core/capture/redact';
import type { ScriptUse } from '../../core/capture/scriptUse';
import type { PageFacts } from './inPage';
import type { NetworkLog } from './networkLog';
import { pausesOf } from './pauses';
import type { SeenLoad } from './seenLoad';
import { splitTransfer } from './transferred';

export type HarEntry = ReturnType<typeof harEntry>;

/** One page of a HAR file with its entries. */
export interface HarPage {
  readonly page: { readonly _lens: Readonly<Record<string, unknown>> & { readonly observations?: object } };
  readonly entries: readonly HarEntry[];
  readonly fcpMs?: number;
  readonly lcpMs?: number;
  readonly fcpPaintMs?: number;
  readonly lcpPaintMs?: number;
  /** Address or path of the hero. */
  readonly hero?: string;
  /** Work of each script file until the page had settled, in ms. */
  readonly scriptMs: ReadonlyMap<string, number>;
  /** How much of each script file ran; known of one of several runs. */
  readonly scripts?: readonly ScriptUse[];
  readonly finalUrl: string;
  readonly requests: number;
  readonly notes: readonly string[];
  readonly browserVersion: string;
}

interface PageInput {
  readonly id: string;
  readonly finalUrl: string;
  readonly log: NetworkLog;
  /** What the page told; undefined when it stopped answering. */
  readonly facts?: PageFacts;
  readonly work: readonly Work[];
  /** How much of each script file ran; undefined when the browser did not tell. */
  readonly scripts?: readonly ScriptUse[];
  readonly screenshot?: Buffer;
  readonly zeroS: number;
  readonly conditions: Conditions;
  readonly browserVersion: string;
  readonly notes: readonly string[];
  readonly servers: readonly ServerOrder[];
  readonly handshakes: readonly Handshake[];
  /** Values that were sent to the site and must be found nowhere. */
  readonly secrets: readonly string[];
}

/**
 * A HAR 1.2 page with entries. What HAR has no field for stands in `_lens` (docs/har-fields.md). Secrets are cut as a
 * HAR that is read is cut: the file may be handed on.
 */
export function harPage(input: PageInput): HarPage {
  const { log, facts, zeroS } = input;
  const secrets = new Secrets(input.secrets);
  const timeOrigin = facts?.timeOrigin ?? log.firstWallMs;
  const cutAddress = <T extends { readonly url?: string }>(seen: T): T =>
    seen.url === undefined ? seen : { ...seen, url: redactUrl(seen.url, secrets) };
  const observations: Observations | undefined = facts && {
    largestPaints: facts.largestPaints.map(cutAddress),
    pictures: facts.pictures.map(cutAddress),
    embedded: facts.embedded,
    work: input.work.map(cutAddress),
    scripts: input.scripts?.map(cutAddress),
    renderedHtml: redactContent(facts.html, secrets),
    documentHeight: facts.documentHeight,
    firstScreen: facts.firstScreen,
    certificates: log.certificates,
    servers: input.servers,
    ...(input.handshakes.length > 0 && {
      handshakes: input.handshakes.map((h) => ({ ...h, connectMs: round(h.connectMs), tlsMs: round(h.tlsMs) })),
    }),
  };
  const hero = observations?.largestPaints.at(-1);
  const lcpMs = hero?.timeMs;
  const entries = log.loads.map((load) => harEntry(load, input, secrets, (s) => timeOrigin + (s - zeroS) * 1000));
  const page = {
    startedDateTime: iso(timeOrigin),
    id: input.id,
    title: facts?.title ?? '',
    pageTimings: { onContentLoad: round(facts?.dclMs ?? -1), onLoad: round(facts?.loadMs ?? -1) },
    _lens: {
      conditions: input.conditions,
      ttfbMs: facts && round(facts.ttfbMs),
      fcpMs: facts?.fcpMs,
      lcpMs,
      fcpPaintMs: facts?.fcpPaintMs,
      lcpPaintMs: facts?.lcpPaintMs,
      cls: facts && Math.round(facts.cls * 10000) / 10000,
      observations,
      ...(log.left.length > 0 && {
        ledHere: log.left.map(({ url, by, ms }) => ({ url: redactUrl(url, secrets), by, ms: round(ms) })),
      }),
      notes: input.notes,
    },
  };
  const cut = secrets.cutKnownIn({ page, entries }, 'content');
  const screenshot = input.screenshot?.toString('base64');
  return {
    page: { ...cut.page, _lens: { ...cut.page._lens, screenshot } },
    entries: cut.entries,
    fcpMs: facts?.fcpMs,
    lcpMs,
    fcpPaintMs: facts?.fcpPaintMs,
    lcpPaintMs: facts?.lcpPaintMs,
    hero: hero?.url ?? hero?.path,
    scriptMs: scriptWork(observations?.work ?? []),
    scripts: cut.page._lens.observations?.scripts,
    finalUrl: redactUrl(input.finalUrl, secrets),
    requests: log.loads.length,
    notes: input.notes,
    browserVersion: input.browserVersion,
  };
}

/** A whole HAR 1.2 document. */
export function harFile(pages: readonly HarPage[], version: string): string {
  return JSON.stringify({
    log: {
      version: '1.2',
      creator: { name: 'Keen Lens', version },
      browser: { name: 'Chromium', version: pages[0]?.browserVersion ?? '' },
      pages: pages.map((p) => p.page),
      entries: pages.flatMap((p) => p.entries),
    },
  });
}

/** First runs of script files, by address. */
function scriptWork(work: readonly Work[]): Map<string, number> {
  const out = new Map<string, number>();
  for (const w of work)
    if (w.kind === 'script' && w.phase === 'evaluate' && w.url) out.set(w.url, (out.get(w.url) ?? 0) + w.durationMs);
  return out;
}

function harEntry(load: SeenLoad, input: PageInput, secrets: Secrets, wall: (s: number) => number) {
  const url = redactUrl(load.url, secrets);
  const t = load.timing;
  const endS = load.endS ?? load.startS;
  const total = Math.max(0, (endS - load.startS) * 1000);
  let timings = { blocked: -1, dns: -1, connect: -1, ssl: -1, send: 0, wait: total, receive: 0 };
  if (t && t.receiveHeadersEnd > 0) {
    const queued = (t.requestTime - load.startS) * 1000;
    const firstWork = [t.dnsStart, t.connectStart, t.sendStart].find((ms) => ms >= 0) ?? 0;
    const headersEndMs = queued + t.receiveHeadersEnd;
    timings = {
      blocked: round(Math.max(0, queued + firstWork)),
      dns: t.dnsStart >= 0 ? round(t.dnsEnd - t.dnsStart) : -1,
      connect: t.connectStart >= 0 ? round(t.connectEnd - t.connectStart) : -1,
      ssl: t.sslStart >= 0 ? round(t.sslEnd - t.sslStart) : -1,
      send: round(Math.max(0, t.sendEnd - t.sendStart)),
      wait: round(Math.max(0, t.receiveHeadersEnd - t.sendEnd)),
      receive: round(Math.max(0, total - headersEndMs)),
    };
  }
  const body = load.body;
  const textual = /^(text\/|application\/(javascript|json|xml|xhtml|ld\+json|manifest\+json)|image\/svg)/.test(
    load.mimeType,
  );
  const { headerBytes, bodyBytes } = load.fromEarlyHints
    ? earlyTransfer(load, input.facts)
    : splitTransfer({
        total: load.wireBytes,
        atHeaders: load.atHeaders,
        parts: load.parts,
        contentLength: statedLength(load),
        decoded: load.decodedBytes,
      });
  const size = body?.length ?? load.decodedBytes;
  return {
    pageref: input.id,
    startedDateTime: iso(wall(load.startS)),
    time: round(total),
    request: {
      method: load.method,
      url,
      httpVersion: load.protocol || 'unknown',
      cookies: [],
      headers: redactHeaders(load.requestHeaders, secrets),
      queryString: query(url),
      headersSize: headersSize(load.requestHeaders) + load.url.length + 20,
      bodySize: 0,
    },
    response: {
      status: load.status,
      statusText: load.statusText,
      httpVersion: load.protocol || 'unknown',
      cookies: [],
      headers: [...redactHeaders(load.responseHeaders, secrets), ...(load.cookies ?? [])],
      content: {
        size,
        mimeType: load.mimeType,
        compression: size > bodyBytes ? size - bodyBytes : 0,
        ...(body && body.length > 0
          ? textual && isUtf8(body)
            ? { text: redactContent(body.toString('utf8'), secrets, /[/+]json\b/.test(load.mimeType)) }
            : { text: body.toString('base64'), encoding: 'base64' }
          : {}),
      },
      redirectURL: redactUrl(load.redirectUrl ?? '', secrets),
      headersSize: headerBytes,
      bodySize: bodyBytes,
    },
    cache: {},
    timings,
    serverIPAddress: load.address ?? '',
    connection: load.connection,
    _lens: {
      kind: load.kind,
      priority: load.priority,
      initiator: load.initiator?.url
        ? { ...load.initiator, url: redactUrl(load.initiator.url, secrets) }
        : load.initiator,
      renderBlocking: input.facts?.renderBlocking[load.url],
      error: load.error,
      mixedBlocked: load.mixedBlocked,
      pauses: pausesOf(load, input.work, input.conditions.rttMs, (s) => (s - input.zeroS) * 1000),
      earlyHints: earlyHintsOf(load, secrets),
      fromEarlyHints: load.fromEarlyHints,
    },
  };
}

/** What Early Hints brought came before the page: to the page it comes from the cache, and costs nothing. */
function earlyTransfer(load: SeenLoad, facts: PageFacts | undefined): { headerBytes: number; bodyBytes: number } {
  const bodyBytes = facts?.hintedBytes[load.url] ?? statedLength(load) ?? load.body?.length ?? load.decodedBytes;
  return { headerBytes: headersSize(load.responseHeaders), bodyBytes };
}

/** What the server sent ahead of an answer, and how long after the request. */
function earlyHintsOf({ earlyLinks, timing: t }: SeenLoad, secrets: Secrets): EarlyHints | undefined {
  if (!earlyLinks || !t) return undefined;
  return {
    links: redactLinks(earlyLinks, secrets),
    ms: round(Math.max(0, (t.receiveHeadersStart ?? t.receiveHeadersEnd) - t.sendEnd)),
  };
}

/** The length that an answer states; a HEAD or an answer that was broken off has another one. */
function statedLength(load: SeenLoad): number | undefined {
  if (load.error || load.method === 'HEAD') return undefined;
  const value = load.responseHeaders.find((h) => h.name.toLowerCase() === 'content-length')?.value.trim();
  return value !== undefined && /^\d{1,15}$/.test(value) ? Number(value) : undefined;
}

function headersSize(headers: readonly Header[]): number {
  return headers.reduce((sum, h) => sum + h.name.length + h.value.length + 4, 0);
}

function query(url: string): { name: string; value: string }[] {
  try {
    return [...new URL(url).searchParams].map(([name, value]) => ({ name, value }));
  } catch {
    return [];
  }
}

function iso(ms: number): string {
  return new Date(ms).toISOString();
}

export function round(ms: number): number {
  return Math.round(ms * 100) / 100;
}
