import type { EarlyHints, Pause } from '../../src/core/capture/capture';

/** What a truth page is made of: hosts, files, and the fixes that its variants really apply. */

/** A stand-in server of one page. */
export interface HostSpec {
  readonly name: string;
  readonly protocol: 'h1' | 'h2';
  /** HTTP/2: streams share evenly, or by the urgency that the browser states (RFC 9218). */
  readonly order?: 'fair' | 'urgency';
  /** Think time before a file, in ms. */
  readonly waitMs: number;
}

/** One answer of a server. */
export interface FileSpec {
  readonly type: string;
  readonly body: Buffer;
  readonly gzip?: boolean;
  readonly status?: number;
  readonly headers?: Readonly<Record<string, string>>;
  /** Think time in place of the host's. */
  readonly waitMs?: number;
  /** Where the server pauses while it sends the body. */
  readonly pauses?: readonly Pause[];
  /** Sent ahead of the answer, over HTTP/2. */
  readonly hints?: EarlyHints;
}

export type Files = Map<string, FileSpec>;

/** A variant: fixes as on the command line, `KIND TARGET key=value`, applied together. */
export interface VariantSpec {
  readonly name: string;
  readonly fixes: readonly string[];
}

/** One page of the truth set. */
export interface TruthPage {
  readonly name: string;
  /** Never looked at while constants are fitted. */
  readonly held: boolean;
  /** In one line: what is special about it. */
  readonly about: string;
  readonly url: string;
  readonly hosts: readonly HostSpec[];
  readonly screen?: 'phone' | 'desktop';
  /** Measured on a second visit as well. */
  readonly repeat?: boolean;
  /** Added after the constants had been fitted: no constant knows it. */
  readonly late?: boolean;
  /** Written by nobody here: a document of a published package. */
  readonly outside?: boolean;
  readonly variants: readonly VariantSpec[];
  files(): Promise<Files>;
}

/** A link and processor on which truth is measured. */
export interface TruthLink {
  readonly id: 'busy' | 'middling' | 'fast';
  readonly rttMs: number;
  readonly downKbps: number;
  readonly upKbps: number;
  readonly cpuFactor: number;
}

export const LINKS: readonly TruthLink[] = [
  { id: 'busy', rttMs: 150, downKbps: 2000, upKbps: 800, cpuFactor: 4 },
  { id: 'middling', rttMs: 80, downKbps: 9000, upKbps: 3000, cpuFactor: 4 },
  { id: 'fast', rttMs: 25, downKbps: 40_000, upKbps: 10_000, cpuFactor: 1 },
];

/** A link as tables name it. */
export const linkName = (l: TruthLink) => `${l.rttMs} ms, ${l.downKbps / 1000} Mbit/s, CPU ${l.cpuFactor}`;

/** The link on which captures are recorded. */
export const RECORDING_LINK = { rttMs: 8, downKbps: 100_000, upKbps: 50_000 };

/** Every host has an address of its own on the far side of the rig. */
export const addressOf = (index: number) => `10.77.1.${index + 1}`;
