import type { EarlyHints, Pause } from '../../core/capture/capture';

/** What a replay's servers are told, and what they tell. */

/** What a recorded request is answered with. */
export interface Answer {
  readonly method: string;
  readonly url: string;
  readonly status: number;
  readonly headers: readonly (readonly [name: string, value: string])[];
  /** As it travels, that is with its content coding. */
  readonly body: Uint8Array;
  /** Think time, in ms. */
  readonly waitMs: number;
  /** Where it pauses while it sends the body. */
  readonly pauses?: readonly Pause[];
  /** What it sends ahead of the answer, over HTTP/2, after so much of its think time. */
  readonly hints?: EarlyHints;
  /** The recorded request got no answer: the connection is ended. */
  readonly fails?: true;
}

/** One server: a scheme, host and port. */
export interface ReplayHost {
  readonly origin: string;
  readonly host: string;
  readonly port: number;
  readonly secure: boolean;
  readonly protocol: 'h1' | 'h2';
  /** HTTP/2: streams take turns, or go by the urgency that the browser states (RFC 9218). */
  readonly order: 'fair' | 'urgency';
  /** What a handshake took beyond its round trips, in ms. */
  readonly setupMs: number;
  /** TLS 1.2 is the newest that it speaks. */
  readonly oldTls: boolean;
}

/** Private key and certificate of all hosts, in PEM. */
export interface KeyAndCertificate {
  readonly key: string;
  readonly cert: string;
}

/** A link that is emulated, in ms and kbit/s. */
export interface ReplayLink {
  readonly rttMs: number;
  readonly downKbps: number;
  readonly upKbps: number;
}

/** What the parent says. Each message is answered with its number. */
export type Told =
  | {
      readonly kind: 'start';
      readonly hosts: readonly ReplayHost[];
      readonly keys: KeyAndCertificate;
      /** Behind an emulated link, on loopback; or on addresses of a link that is there already, by host. */
      readonly over:
        | { readonly link: ReplayLink; readonly lookups: boolean }
        | { readonly addresses: Readonly<Record<string, string>> };
    }
  | { readonly kind: 'answers'; readonly answers: readonly Answer[] }
  /** Ends every connection, as a new profile does, and forgets what was asked. */
  | { readonly kind: 'hangup' }
  | { readonly kind: 'report' };

/** What was asked since the last hang-up. */
export interface ReplayReport {
  /** Addresses that no recorded request is like. */
  readonly unanswered: readonly string[];
  /** Addresses that were answered as another one, which differs in noise. */
  readonly likened: readonly { readonly asked: string; readonly as: string }[];
  readonly requests: number;
}

/** What the servers answer to a message. */
export interface Reply {
  readonly id: number;
  readonly error?: string;
  /** Of a start behind an emulated link: where each server is to be reached, `HOST:PORT` to `ADDRESS:PORT`. */
  readonly places?: Readonly<Record<string, string>>;
  readonly report?: ReplayReport;
}
