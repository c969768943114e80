import { isUtf8 } from 'node:buffer';
import type { Conditions, Header, Observations, ServerOrder, Work } from '../../core/capture/capture';
import type { PageFacts } from './inPage';
import type { NetworkLog, SeenLoad } from './networkLog';

type HarEntry = ReturnType<typeof harEntry>;

/** One page of a HAR file with its entries. */
export interface HarPage {
  readonly page: object;
  readonly entries: readonly HarEntry[];
  readonly lcpMs?: number;
  readonly finalUrl: string;
  readonly requests: number;
  readonly notes: readonly string[];
  readonly browserVersion: string;
}

interface PageInput {
  readonly id: string;
  readonly finalUrl: string;
  readonly log: NetworkLog;
  readonly facts: PageFacts;
  readonly work: readonly Work[];
  readonly screenshot?: Buffer;
  readonly zeroS: number;
  readonly conditions: Conditions;
  readonly browserVersion: string;
  readonly notes: readonly string[];
  readonly servers: readonly ServerOrder[];
}

/** A HAR 1.2 page with entries. What HAR has no field for stands in `_lens` (docs/har-fields.md). */
export function harPage(input: PageInput): HarPage {
  const { log, facts, zeroS } = input;
  const observations: Observations = {
    largestPaints: facts.largestPaints,
    pictures: facts.pictures,
    work: input.work,
    renderedHtml: facts.html,
    documentHeight: facts.documentHeight,
    firstScreen: facts.firstScreen,
    certificates: log.certificates,
    servers: input.servers,
  };
  const lcpMs = facts.largestPaints.at(-1)?.timeMs;
  return {
    page: {
      startedDateTime: iso(facts.timeOrigin),
      id: input.id,
      title: facts.title,
      pageTimings: { onContentLoad: round(facts.dclMs), onLoad: round(facts.loadMs) },
      _lens: {
        conditions: input.conditions,
        ttfbMs: round(facts.ttfbMs),
        fcpMs: facts.fcpMs,
        lcpMs,
        cls: Math.round(facts.cls * 10000) / 10000,
        observations,
        screenshot: input.screenshot?.toString('base64'),
        notes: input.notes,
      },
    },
    entries: log.loads.map((load) => harEntry(load, input, (s) => facts.timeOrigin + (s - zeroS) * 1000)),
    lcpMs,
    finalUrl: input.finalUrl,
    requests: log.loads.length,
    notes: input.notes,
    browserVersion: input.browserVersion,
  };
}

/**
 * One run with what each of its loads took in the others: the first request of an address answers to the first, and so
 * on. What holds a recording up for a moment does so in one run only.
 */
export function withOtherRuns(run: HarPage, others: readonly HarPage[]): HarPage {
  if (others.length === 0) return run;
  const lists = others.map((other) => byAddress(other.entries));
  const seen = new Map<string, number>();
  return {
    ...run,
    entries: run.entries.map((entry) => {
      const { url } = entry.request;
      const nth = seen.get(url) ?? 0;
      seen.set(url, nth + 1);
      const otherRuns = lists.flatMap((list) => {
        const timings = list.get(url)?.[nth]?.timings;
        return timings ? [runTimes(timings)] : [];
      });
      return { ...entry, _lens: { ...entry._lens, otherRuns } };
    }),
  };
}

function byAddress(entries: readonly HarEntry[]): Map<string, HarEntry[]> {
  const out = new Map<string, HarEntry[]>();
  for (const entry of entries) out.set(entry.request.url, [...(out.get(entry.request.url) ?? []), entry]);
  return out;
}

/** HAR 1.2: connect includes ssl, and -1 says that there was none. */
function runTimes({ connect, ssl, wait }: HarEntry['timings']): object {
  return {
    waitMs: wait,
    ...(connect >= 0 && { connectMs: round(connect - Math.max(0, ssl)) }),
    ...(ssl >= 0 && { tlsMs: ssl }),
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

function harEntry(load: SeenLoad, input: PageInput, wall: (s: number) => number) {
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
  const bodyBytes = Math.max(0, load.wireBytes - load.headerBytes);
  const size = body?.length ?? load.decodedBytes;
  return {
    pageref: input.id,
    startedDateTime: iso(wall(load.startS)),
    time: round(total),
    request: {
      method: load.method,
      url: load.url,
      httpVersion: load.protocol || 'unknown',
      cookies: [],
      headers: load.requestHeaders,
      queryString: query(load.url),
      headersSize: headersSize(load.requestHeaders) + load.url.length + 20,
      bodySize: 0,
    },
    response: {
      status: load.status,
      statusText: load.statusText,
      httpVersion: load.protocol || 'unknown',
      cookies: [],
      headers: [...load.responseHeaders, ...(load.cookies ?? [])],
      content: {
        size,
        mimeType: load.mimeType,
        compression: size > bodyBytes ? size - bodyBytes : 0,
        ...(body && body.length > 0
          ? textual && isUtf8(body)
            ? { text: body.toString('utf8') }
            : { text: body.toString('base64'), encoding: 'base64' }
          : {}),
      },
      redirectURL: load.redirectUrl ?? '',
      headersSize: load.headerBytes,
      bodySize: bodyBytes,
    },
    cache: {},
    timings,
    serverIPAddress: load.address ?? '',
    connection: load.connection,
    _lens: {
      kind: load.kind,
      priority: load.priority,
      initiator: load.initiator,
      renderBlocking: input.facts.renderBlocking[load.url],
      error: load.error,
      mixedBlocked: load.mixedBlocked,
    },
  };
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

function round(ms: number): number {
  return Math.round(ms * 100) / 100;
}
