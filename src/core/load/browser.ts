import { CAUSES } from './replay';

/** Constants of the browser, in ms at factor 1 unless said otherwise; docs/accuracy.md says what each is worth. */
export const BROWSER = {
  /** By the clock, work takes so much more than the main thread's own processor time: other threads of the browser need processors too. */
  clockFactor: 1.25,
  frameMs: 1000 / 60,
  /** What the first frame of a page takes beside its style, layout and paint: main thread. */
  firstFrameMs: 7.92,
  /** From the end of a frame's main-thread work until it is on the screen, where the recording does not tell; other threads do it. */
  presentMs: 60,
  /** Longer than the recording tells of its fastest run: visits have no choice of runs. */
  presentFixedMs: 20,
  /** Requests let out while the head is pending: of middle priority, and of less beside all others. */
  tightLimit: 2,
  middle: 2,
  /** Priority from which a request is never held back. */
  urgentFrom: 3,
  /** From the document's first bytes until the renderer has taken the page over: on the main thread, and beside it. */
  commitMs: 32,
  commitFixedMs: 11,
  /** From knowing of a file until its request is on the wire: on the main thread, and beside it. */
  requestMs: 0.371,
  requestFixedMs: 0,
  /** Handing a response to the page, on the main thread. */
  deliverMs: 2.79,
  /** Reading a stylesheet, for each decoded byte. */
  styleMsPerByte: 0.00009,
  /** Before a script runs, beside its own work. */
  runOverheadMs: 4.08,
  /** Drawing a picture for the first time, for each million points: on the main thread, and beside it. */
  drawMsPerMillion: 3.02,
  drawFixedMsPerMillion: 23,
  /** How long a font may keep its text invisible (font-display: block). */
  fontBlockMs: 3000,
  /** Where its rule leaves that to the browser, no longer than this after the navigation (found by trying). */
  autoFontMs: 2000,
  /** From the first requests until the parser begins: on the main thread, and beside it (from timelines: 22 ms at factor 1, 52 at 4). */
  parserStartMs: 10,
  parserStartFixedMs: 12,
  /** The parser lets others in after so long: in its first turns soon, so that something can be painted, later seldom. */
  firstParseTurns: 7,
  firstParseTurnMs: 10,
  parseTurnMs: 500,
  /** However slow the processor, a document is parsed in so many turns at most. */
  maxParseTurns: 500,
};

/** Changes to one simulation, for ranges. All default to 1. */
export interface Perturbation {
  readonly rtt: number;
  readonly rate: number;
  readonly cpu: number;
  readonly server: number;
  /** Seeds the order of arrivals. */
  readonly seed: number;
}

// Events of the network in the shared queue,
export const CONNECTED = 1;
export const RESPOND = 2;
export const RESEND = 8;
export const HANDSHAKE = 9;
export const HAND_OVER = 12;
export const GO_ON = 13;
export const HINTS = 14;
// and of the browser.
export const TASK_END = 3;
export const FRAME = 4;
export const DISCOVER = 5;
export const DIRTY = 6;
export const COMMIT = 7;
export const REQUEST = 10;
export const CALL = 11;
// Tasks of the main thread.
export const PARSE_TASK = 0;
export const RUN_TASK = 1;
export const FRAME_TASK = 2;
export const DCL_TASK = 3;
export const DELIVER_TASK = 4;
export const REQUEST_TASK = 5;

/** Causes of discovery as numbers. */
export const CAUSE = Object.fromEntries(CAUSES.map((c, i) => [c, i])) as Record<(typeof CAUSES)[number], number>;

/** A number in [0, 1) from a seed and an index; the same everywhere. */
export function unit(seed: number, index: number): number {
  let x = (Math.imul(seed, 0x9e3779b1) ^ Math.imul(index + 1, 0x85ebca6b)) >>> 0;
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d) >>> 0;
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b) >>> 0;
  return ((x ^ (x >>> 16)) >>> 0) / 4294967296;
}
