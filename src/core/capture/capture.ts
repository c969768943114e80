import { decodeText } from './decodeText';
import type { ScriptUse } from './scriptUse';

/**
 * The Capture: one recorded load of one page for one visitor. Plain readonly values;
 * times are milliseconds since the navigation started, sizes are bytes.
 */

/** What a load is fetched as; follows the Fetch Standard's request destinations, merged where we do not tell apart. */
export type LoadKind =
  'document' | 'frame' | 'style' | 'script' | 'image' | 'font' | 'media' | 'data' | 'manifest' | 'other';

/** Chromium's five network priorities, highest first. */
export type Priority = 'VeryHigh' | 'High' | 'Medium' | 'Low' | 'VeryLow';

/** Phases of one load as in HAR 1.2 (`timings`); undefined where it does not apply or was not recorded. */
export interface LoadTimings {
  readonly blockedMs?: number;
  readonly dnsMs?: number;
  readonly connectMs?: number;
  readonly tlsMs?: number;
  readonly sendMs: number;
  readonly waitMs: number;
  readonly receiveMs: number;
}

/**
 * How long a load's server took in another run of the same recording, undefined where no connection was made, and what
 * its script worked when it first ran.
 */
export interface RunTimes {
  readonly connectMs?: number;
  readonly tlsMs?: number;
  readonly waitMs: number;
  readonly scriptMs?: number;
}

/**
 * A pause of a server that sends an answer in parts: it went on `ms` after its first byte, when it had sent so much of the
 * body (a share, 0 to 1).
 */
export interface Pause {
  readonly share: number;
  readonly ms: number;
}

/**
 * What a server sends ahead of its answer (Early Hints, status 103, RFC 8297): its Link headers, and how long after the
 * request they came.
 */
export interface EarlyHints {
  readonly links: readonly string[];
  readonly ms: number;
}

/** Who asked for a load. `url` and `line` name the file and 1-based line where known. */
export interface Initiator {
  readonly type: 'navigation' | 'parser' | 'script' | 'preload' | 'redirect' | 'other';
  readonly url?: string;
  readonly line?: number;
}

export interface Header {
  readonly name: string;
  readonly value: string;
}

/** One request with its response, as recorded. A redirect hop is a load of its own. */
export interface Load {
  readonly index: number;
  readonly url: string;
  readonly method: string;
  /** HTTP status; 0 when there was no response. */
  readonly status: number;
  readonly kind: LoadKind;
  readonly mimeType: string;
  /** 'h1' up to HTTP/1.1, 'h2' for HTTP/2 and 3. */
  readonly protocol: 'h1' | 'h2';
  readonly startMs: number;
  readonly endMs: number;
  readonly timings: LoadTimings;
  /** What the same load took in the other runs, when the page was recorded more than once. */
  readonly otherRuns?: readonly RunTimes[];
  /** Where its server paused while it sent the body, in their order; undefined where it did not, or nobody looked. */
  readonly pauses?: readonly Pause[];
  /** Of a document: what its server sent ahead of it. */
  readonly earlyHints?: EarlyHints;
  /** Asked for because of Early Hints, before the page was there: the times are those of taking it over from the cache. */
  readonly fromEarlyHints?: true;
  readonly requestBytes: number;
  readonly headerBytes: number;
  /** Body as transferred, that is still compressed. */
  readonly bodyBytes: number;
  /** Body after content decoding. */
  readonly decodedBytes: number;
  readonly requestHeaders: readonly Header[];
  readonly responseHeaders: readonly Header[];
  /** Nobody recorded the headers: those that are here were worked out from what else is known. */
  readonly headersUnseen?: true;
  /** Absolute target when this is a redirect hop. */
  readonly redirectTo?: string;
  readonly priority?: Priority;
  readonly initiator?: Initiator;
  /** Resource Timing `renderBlockingStatus`. */
  readonly renderBlocking?: boolean;
  /** Text of the network error, e.g. "blocked as mixed content". */
  readonly error?: string;
  /** True when the browser refused the request because of mixed content. */
  readonly mixedBlocked?: boolean;
  readonly connection?: string;
  readonly bodyHash?: string;
}

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** A picture (img, background, poster) as laid out, in CSS pixels. */
export interface PictureBox {
  readonly path: string;
  readonly url: string;
  readonly use: 'img' | 'background' | 'poster';
  readonly box: Box;
  readonly visible: boolean;
  readonly naturalWidth?: number;
  readonly naturalHeight?: number;
  readonly lazyAttribute?: boolean;
  /** object-fit of an img, background-size of a background. */
  readonly fit?: string;
}

/** One entry of the Largest Contentful Paint API. */
export interface LargestPaint {
  readonly timeMs: number;
  readonly size: number;
  readonly path?: string;
  readonly tag?: string;
  readonly url?: string;
  readonly box?: Box;
}

/** Main-thread work, by self time, in the recording's own processor speed. */
export interface Work {
  readonly kind: 'script' | 'parse' | 'style' | 'layout' | 'paint' | 'decode' | 'other';
  readonly url?: string;
  readonly line?: number;
  readonly startMs: number;
  /** What it took of the processor, without the work inside it. */
  readonly durationMs: number;
  /** When it ended by the clock, with the work inside it and what other programs did meanwhile; see `endOfWork`. */
  readonly untilMs?: number;
  /** Script work: the first evaluation, or a call made later (timer, event). */
  readonly phase?: 'evaluate' | 'later';
  /** The timer that set it off. */
  readonly timer?: Timer;
}

/** A timer of a script (HTML, 8.6), or its wish to run when the browser has nothing else to do. */
export interface Timer {
  /** When it was set, in ms since the navigation. */
  readonly setMs: number;
  /** How long after that it may run at the earliest, in ms. */
  readonly delayMs: number;
}

/** When a piece of work ended, in ms since the navigation; recordings of before say only what it took of the processor. */
export const endOfWork = (work: Work): number => work.untilMs ?? work.startMs + work.durationMs;

/** What our recorder saw beyond HAR 1.2. Absent for plain HARs. */
export interface Observations {
  readonly largestPaints: readonly LargestPaint[];
  readonly pictures: readonly PictureBox[];
  /** Boxes of what is embedded: frames, videos, objects. */
  readonly embedded?: readonly { readonly path: string; readonly box: Box }[];
  /** Work of the main thread; undefined where nobody looked. */
  readonly work?: readonly Work[];
  /** How much of each script file ran until the page had settled; undefined where nobody looked. */
  readonly scripts?: readonly ScriptUse[];
  readonly renderedHtml?: string;
  /** Content hash of the screenshot (PNG or JPEG). */
  readonly screenshotHash?: string;
  readonly documentHeight?: number;
  /** Paths of elements that the first screen showed (in the rendered document), 4,000 at most. */
  readonly firstScreen?: readonly string[];
  /** Certificates of the hosts that were talked to over TLS. */
  readonly certificates?: readonly HostCertificate[];
  /** HTTP/2 servers that were asked in which order they send. */
  readonly servers?: readonly ServerOrder[];
  /** TLS handshakes that took the browser long, made again apart from it. */
  readonly handshakes?: readonly Handshake[];
}

/** Least time of a TCP and a TLS handshake with an origin, in ms. */
export interface Handshake {
  readonly origin: string;
  readonly connectMs: number;
  readonly tlsMs: number;
}

/** Whether an HTTP/2 server sends first what the browser calls urgent (RFC 9218), or all in turn. */
export interface ServerOrder {
  readonly origin: string;
  readonly byUrgency: boolean;
}

/** What a host showed when the connection was made (RFC 5280; RFC 8446). */
export interface HostCertificate {
  readonly host: string;
  readonly subject: string;
  readonly issuer: string;
  /** DNS names that it covers. */
  readonly names: readonly string[];
  /** ISO dates. */
  readonly validFrom: string;
  readonly validTo: string;
  /** As the browser says it, e.g. `TLS 1.3`. */
  readonly protocol: string;
}

/** Milestones as recorded; undefined where the source does not tell. */
export interface Measured {
  readonly ttfbMs?: number;
  readonly fcpMs?: number;
  readonly lcpMs?: number;
  /** When the main thread had painted what these two show (Paint Timing, PaintTimingMixin); other threads bring it to the screen. */
  readonly fcpPaintMs?: number;
  readonly lcpPaintMs?: number;
  readonly dclMs?: number;
  readonly loadMs?: number;
  readonly cls?: number;
  readonly bytes: number;
  readonly requests: number;
  /** First and hero paint of the other runs, when the page was recorded more than once. */
  readonly otherRuns?: readonly PaintTimes[];
}

/** First and hero paint of one run. */
export type PaintTimes = Pick<Measured, 'fcpMs' | 'lcpMs' | 'fcpPaintMs' | 'lcpPaintMs'>;

/** Under what conditions the recording was made. */
export interface Conditions {
  readonly screenWidth: number;
  readonly screenHeight: number;
  readonly density: number;
  readonly touch: boolean;
  readonly rttMs: number;
  readonly downKbps: number;
  readonly upKbps: number;
  readonly cpuFactor: number;
  /** False when estimated from the loads because the file does not say. */
  readonly stated: boolean;
}

export type Device = 'phone' | 'desktop';

/** A page on the way that led on by itself when it had been opened: not by an HTTP redirect, which is a load. */
export interface LedOn {
  readonly url: string;
  /** `refresh`: meta refresh or Refresh header; `form`: a script sent a form. */
  readonly by: 'script' | 'refresh' | 'form';
  /** From its request to that of the next page. */
  readonly ms: number;
}

export interface Capture {
  /** Final address of the page. */
  readonly page: string;
  /** Address that was asked for; differs from `page` after redirects. */
  readonly requested: string;
  readonly title: string;
  readonly device: Device;
  readonly recordedAt: string;
  readonly conditions: Conditions;
  readonly loads: readonly Load[];
  /** Index into `loads` of the page's own document (after redirects). */
  readonly documentIndex: number;
  readonly measured: Measured;
  readonly observations?: Observations;
  /** Pages that were opened before and led here, in their order; their loads are not part of the capture. */
  readonly ledHere?: readonly LedOn[];
  /** What the source could not tell, in plain words. */
  readonly notes: readonly string[];
}

/** Gives bodies of a capture's loads; undefined where the recording has none. */
export interface Bodies {
  bytes(load: Load): Uint8Array | undefined;
  text(load: Load): string | undefined;
}

/** Bodies held in memory, by load index. Text is decoded as a browser does. */
export function bodiesInMemory(byIndex: ReadonlyMap<number, Uint8Array>): Bodies {
  const texts = new Map<number, string>();
  return {
    bytes: (load) => byIndex.get(load.index),
    text(load) {
      const kept = texts.get(load.index);
      if (kept !== undefined) return kept;
      const bytes = byIndex.get(load.index);
      if (!bytes) return undefined;
      const { text } = decodeText(bytes, header(load.responseHeaders, 'content-type') ?? load.mimeType);
      texts.set(load.index, text);
      return text;
    },
  };
}

/** First value of a header, by case-insensitive name (RFC 9110 section 5.1). */
export function header(headers: readonly Header[], name: string): string | undefined {
  const wanted = name.toLowerCase();
  return headers.find((h) => h.name.toLowerCase() === wanted)?.value;
}

/** Share and time words use this: transfer bytes of one load, headers and body. */
export function transferBytes(load: Load): number {
  return load.headerBytes + load.bodyBytes;
}
