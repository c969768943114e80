/**
 * The load graph: what one capture says about how its page loads, freed from the link and the
 * processor it was recorded with. Plain JSON, so that it can go to a web worker. Offsets are in
 * decoded bytes of the document; work is in milliseconds on a processor of factor 1.
 */
import type { LoadKind, Pause } from '../capture/capture';
import { followToEnd } from '../capture/redirects';
import type { Presentation } from './presentation';

/** 4 is the most urgent: Chromium's VeryHigh, High, Medium, Low, VeryLow. */
export type PriorityLevel = 0 | 1 | 2 | 3 | 4;

/** How the browser learns of a fetch. */
export type Discovery =
  | { readonly by: 'navigation' }
  /** The preload scanner, once the tag that ends at `offset` has arrived. */
  | { readonly by: 'scanner'; readonly offset: number }
  /** The parser, once it has reached `offset`. */
  | { readonly by: 'parser'; readonly offset: number }
  /** A stylesheet names it; `sheet` is a fetch, or -1 for a style element or attribute. */
  | { readonly by: 'style'; readonly sheet: number; readonly drawn: boolean; readonly offset: number }
  /** A script asks for it, `delayMs` after it ran. */
  | { readonly by: 'script'; readonly script: number; readonly delayMs: number }
  /** Layout finds a lazy picture near the viewport. */
  | { readonly by: 'layout'; readonly offset: number }
  /** A handler of DOMContentLoaded or load. */
  | { readonly by: 'event'; readonly event: 'dcl' | 'load'; readonly delayMs: number }
  /** Another fetch has to end first: a redirect hop or a frame's document. */
  | { readonly by: 'fetch'; readonly fetch: number; readonly delayMs: number }
  /** Not until the visitor scrolls there. */
  | { readonly by: 'never' };

export interface FetchNode {
  readonly id: number;
  /** Index of the recorded load; -1 for one that a fix made up. */
  readonly load: number;
  readonly url: string;
  /** Scheme, host and port: what connections are pooled by. */
  readonly origin: string;
  readonly kind: LoadKind;
  readonly protocol: 'h1' | 'h2';
  readonly secure: boolean;
  readonly requestBytes: number;
  readonly headerBytes: number;
  readonly bodyBytes: number;
  readonly decodedBytes: number;
  /** Think time of the server. */
  readonly serverMs: number;
  /** Of the document: when its server sends Early Hints (RFC 8297), in ms of its think time; undefined where it sends none. */
  readonly hintsMs?: number;
  /** Asked for as soon as these hints are there, before the page is; the page finds it as it would without them. */
  readonly early?: true;
  /** Where the server pauses while it sends the body. */
  readonly pauses?: readonly Pause[];
  /** What setting up a connection to this origin took beyond its round trips. */
  readonly setupMs: number;
  readonly priority: PriorityLevel;
  readonly discovery: Discovery;
  /** Fetch that this redirect hop leads to. */
  readonly redirectTo?: number;
  /** Refused by the browser: takes no network time and never arrives. */
  readonly refused: boolean;
  /** Holds back the load event. */
  readonly holdsLoad: boolean;
  /** Drawn in the first screen: raised once layout has seen it. */
  readonly inViewport: boolean;
  /** Seen in the first screen by the first layout, and pushed out of it by what comes later: raised as well. */
  readonly seenAtFirst?: boolean;
  /** Points of a picture's file. */
  readonly pixels: number;
  /** Asked for without credentials of another origin (fonts): such requests have connections of their own (Fetch, 2.6). */
  readonly anonymous?: boolean;
  /** For a font: text in it is drawn in another one from this time on, in ms since the navigation. */
  readonly hidesUntilMs?: number;
  /** For a font that something else than its stylesheet asks for: fetch of the sheet with its rule. It hides nothing before. */
  readonly ruleIn?: number;
  /** What its response says about being kept; undefined where that is not known. */
  readonly keep?: Keep;
  /** Nobody has seen this file: its size is a guess. */
  readonly guessed?: boolean;
  /** At hand from an earlier visit: arrives without the network. */
  readonly kept?: boolean;
}

/** Whether a response may be used again (RFC 9111). */
export interface Keep {
  readonly store: boolean;
  /** Seconds for which it needs no question. */
  readonly freshS: number;
  /** Has an ETag or a date to ask with. */
  readonly validator: boolean;
}

/**
 * How a script runs: in place, when it has arrived, after parsing, inserted by another script; `import` for a module that
 * runs with the one that imports it, `callback` for work that something sets off later.
 */
export type ScriptMode = 'sync' | 'async' | 'defer' | 'inline' | 'dynamic' | 'import' | 'callback';

/** What sets off work of a script after its first run. */
export type Trigger =
  | { readonly by: 'script'; readonly script: number; readonly delayMs: number }
  | { readonly by: 'event'; readonly event: 'dcl' | 'load'; readonly delayMs: number }
  /** An answer has come in. */
  | { readonly by: 'fetch'; readonly fetch: number; readonly delayMs: number };

export interface ScriptNode {
  readonly id: number;
  /** -1 for an inline script. */
  readonly fetch: number;
  readonly mode: ScriptMode;
  /** Where its tag ends in the document; -1 for one that a script inserted. */
  readonly offset: number;
  readonly inHead: boolean;
  /** Compile and first run. */
  readonly runMs: number;
  /** Nothing is painted before it has run (HTML, 2.5.8, blocking=render). */
  readonly holdsPaint?: true;
  /** Modules (scripts of mode `import`) that have to be there before it runs, and run with it (HTML, 8.1.4.2). */
  readonly imports?: readonly number[];
  /** For a callback: what sets it off, and the script whose code it is, where that is known. */
  readonly after?: Trigger;
  readonly of?: number;
}

export interface StyleNode {
  readonly fetch: number;
  readonly offset: number;
  readonly inHead: boolean;
  /** Holds back rendering and later scripts. */
  readonly blocking: boolean;
}

export interface HeroNode {
  readonly kind: 'image' | 'background' | 'text';
  /** Fetch of its file (after redirects); -1 for text. */
  readonly fetch: number;
  /** Where its element ends in the document. */
  readonly offset: number;
  /** Script or callback that builds its element; -1 when the source has it. */
  readonly builtBy: number;
  /** Its element gets the file only after this event, however early the file is there. */
  readonly afterEvent?: 'dcl' | 'load';
  /** Font that keeps its text invisible; -1 when none does. */
  readonly font: number;
  readonly path?: string;
  readonly url?: string;
}

export interface DocumentNode {
  readonly fetch: number;
  readonly decodedBytes: number;
  /** Parsing of the whole document, without scripts. */
  readonly parseMs: number;
  readonly bodyOffset: number;
  /** Where hints of fixes go: behind the charset and the viewport in the head. */
  readonly hintOffset: number;
  /** End of the first thing in the body that can be painted. */
  readonly contentOffset: number;
  /** Script or callback without which there is nothing to paint; -1 when the source has something. */
  readonly contentBuiltBy?: number;
}

/** A hint to connect: for requests that carry credentials, or for those that do not (Fetch, 2.6). */
export interface Preconnect {
  readonly origin: string;
  readonly offset: number;
  readonly anonymous?: boolean;
  /** In Early Hints: before the page is there. */
  readonly early?: true;
}

/** Everything that a simulation needs. Immutable: fixes make edited copies. */
export interface LoadGraph {
  readonly page: string;
  readonly fetches: readonly FetchNode[];
  readonly scripts: readonly ScriptNode[];
  readonly styles: readonly StyleNode[];
  readonly document: DocumentNode;
  readonly hero: HeroNode;
  /** Font without which no text of the first screen shows; -1 when there is none. */
  readonly contentFont: number;
  /** Style and layout of the first frame, and of each later one. */
  readonly firstFrameMs: number;
  readonly laterFrameMs: number;
  /** Style and layout of the whole document: each frame pays for what was parsed since the last. Part of no other cost. */
  readonly layoutMs?: number;
  /** How long the frames of both paints were on their way to the screen, where the recording tells. */
  readonly presentation?: Presentation;
  /** Host names were looked up while recording (an address map hides it). */
  readonly lookups: boolean;
  /** Origins to connect to as soon as the scanner has passed `offset`. */
  readonly preconnects: readonly Preconnect[];
  /** Origins whose HTTP/2 servers send first what the browser calls urgent (RFC 9218). */
  readonly byUrgency: readonly string[];
  /** Layout shift that a picture without room causes, of the recorded sum. */
  readonly shifts: readonly { readonly fetch: number; readonly score: number }[];
  /** Hosts that a browser which has been there asks by https only (RFC 6797). */
  readonly hsts: readonly string[];
  /** Recorded milestones, to be compared with the simulation. */
  readonly recorded: {
    readonly ttfbMs?: number;
    readonly fcpMs?: number;
    readonly lcpMs?: number;
    readonly loadMs?: number;
    readonly cls?: number;
    /** How far first or hero paint of the runs lay apart, as a share of the earliest; undefined for one run. */
    readonly spread?: number;
    /** The part of it that pictures without room cause. */
    readonly shifted?: number;
  };
  readonly conditions: Link;
}

/** A link and a processor. */
export interface Link {
  readonly rttMs: number;
  readonly downKbps: number;
  readonly upKbps: number;
  /** How much slower main-thread work is than on the recording machine. */
  readonly cpuFactor: number;
}

/** The file whose code a script is; -1 for an inline one. */
export function fileOfScript(graph: Pick<LoadGraph, 'scripts'>, id: number): number {
  const script = graph.scripts[id];
  if (!script) return -1;
  return script.fetch < 0 && script.of !== undefined && script.of >= 0 ? fileOfScript(graph, script.of) : script.fetch;
}

/** Follows redirects to the fetch that delivers. */
export function finalFetch(graph: Pick<LoadGraph, 'fetches'>, id: number): number {
  return followToEnd(id, (at) => graph.fetches[at]?.redirectTo);
}

/** A graph that an earlier version stored, with what it did not know yet filled in; a graph of today as it is. */
export function completeGraph(stored: LoadGraph): LoadGraph {
  const graph = stored as { -readonly [K in keyof LoadGraph]?: LoadGraph[K] };
  if (graph.byUrgency) return stored;
  return {
    ...stored,
    contentFont: -1,
    byUrgency: [...new Set(stored.fetches.filter((f) => f.protocol === 'h2').map((f) => f.origin))],
    shifts: [],
    hsts: [],
    document: { ...stored.document, hintOffset: Math.min(200, stored.document.bodyOffset) },
    fetches: stored.fetches.map((f) => ({ ...f, pixels: f.kind === 'image' ? f.bodyBytes * 7 : 0 })),
  };
}
