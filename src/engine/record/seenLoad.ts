import type { Header, Initiator, LoadKind, Priority } from '../../core/capture/capture';

/** One load as the DevTools protocol told it; times in seconds of the browser's monotonic clock. */
export interface SeenLoad {
  url: string;
  method: string;
  kind: LoadKind;
  startS: number;
  /** Wall clock, ms. */
  wallMs: number;
  /** The document that it is a load of, as the browser numbers them. */
  document: string;
  priority?: Priority;
  initiator?: Initiator;
  requestHeaders: Header[];
  responseHeaders: Header[];
  status: number;
  statusText: string;
  mimeType: string;
  protocol: string;
  timing?: ResourceTiming;
  /** Bytes that had arrived when the headers were read. */
  atHeaders: number;
  /** Sum of the body's parts as they arrived. */
  parts: number;
  /** Headers and body as transferred. */
  wireBytes: number;
  decodedBytes: number;
  /** When the last byte came so far, and stretches without one: with the decoded bytes that had come before. */
  lastByteS?: number;
  rests: { fromS: number; toS: number; before: number }[];
  endS?: number;
  error?: string;
  mixedBlocked?: boolean;
  connection?: string;
  address?: string;
  port?: number;
  redirectUrl?: string;
  body?: Buffer;
  /** Link headers that its server sent ahead of the answer, with status 103. */
  earlyLinks?: string[];
  /** Early Hints had it asked for, before the page was there. */
  fromEarlyHints?: true;
  /** Set-Cookie headers with their values cut. */
  cookies?: Header[];
}

/** `Network.ResourceTiming` of the protocol: ms after `requestTime`, which is in seconds. */
export interface ResourceTiming {
  requestTime: number;
  dnsStart: number;
  dnsEnd: number;
  connectStart: number;
  connectEnd: number;
  sslStart: number;
  sslEnd: number;
  sendStart: number;
  sendEnd: number;
  /** First byte of an answer, an interim one (RFC 9110, 15.2) included. */
  receiveHeadersStart?: number;
  receiveHeadersEnd: number;
}

/** `Network.Response` of the protocol, as far as it is read. */
export interface ProtocolResponse {
  status: number;
  statusText: string;
  mimeType: string;
  headers: Record<string, string>;
  protocol?: string;
  timing?: ResourceTiming;
  encodedDataLength: number;
  connectionId: number;
  fromEarlyHints?: boolean;
  remoteIPAddress?: string;
  remotePort?: number;
  securityDetails?: {
    protocol: string;
    subjectName: string;
    sanList: string[];
    issuer: string;
    validFrom: number;
    validTo: number;
  };
}

/** `Network.Initiator` of the protocol. */
export interface ProtocolInitiator {
  type: string;
  url?: string;
  lineNumber?: number;
  stack?: { callFrames: { url: string; lineNumber: number }[]; parent?: ProtocolInitiator['stack'] };
}

/** What the protocol's resource types are called here. */
export const KINDS: Readonly<Record<string, LoadKind>> = {
  Document: 'document',
  Stylesheet: 'style',
  Script: 'script',
  Image: 'image',
  Font: 'font',
  Media: 'media',
  TextTrack: 'media',
  XHR: 'data',
  Fetch: 'data',
  EventSource: 'data',
  Ping: 'data',
  Manifest: 'manifest',
};

/** Takes over what an answer says of its load. */
export function fill(load: SeenLoad, r: ProtocolResponse): void {
  load.status = r.status;
  load.statusText = r.statusText;
  load.mimeType = r.mimeType;
  load.responseHeaders = pairs(r.headers);
  load.protocol = r.protocol ?? '';
  load.timing = r.timing;
  load.atHeaders = r.encodedDataLength;
  load.connection = r.connectionId ? String(r.connectionId) : undefined;
  load.address = r.remoteIPAddress;
  load.port = r.remotePort;
  if (r.fromEarlyHints) load.fromEarlyHints = true;
}

/** Headers one by one; the protocol joins those of one name by line breaks. */
export function pairs(headers: Record<string, string>): Header[] {
  return Object.entries(headers).flatMap(([name, value]) => value.split('\n').map((v) => ({ name, value: v })));
}

/** Who asked for a load: the nearest script with an address where scripts did. */
export function readInitiator(i: ProtocolInitiator, first: boolean): Initiator {
  if (first) return { type: 'navigation' };
  if (i.type === 'script') {
    let stack = i.stack;
    while (stack) {
      const frame = stack.callFrames.find((f) => f.url);
      if (frame) return { type: 'script', url: frame.url, line: frame.lineNumber + 1 };
      stack = stack.parent;
    }
    return { type: 'script' };
  }
  if (i.type === 'parser')
    return { type: 'parser', url: i.url, line: i.lineNumber === undefined ? undefined : i.lineNumber + 1 };
  return { type: i.type === 'preload' ? 'preload' : 'other' };
}
