import type {
  EarlyHints,
  Box,
  Conditions,
  HostCertificate,
  Initiator,
  LargestPaint,
  LedOn,
  Measured,
  Observations,
  Pause,
  PictureBox,
  Priority,
  RunTimes,
  PaintTimes,
  Timer,
  Work,
} from './capture';
import type { JsonBytes } from './jsonBytes';
import { MAX_REDIRECTS } from './redirects';
import { redactUrl } from './redact';
import type { ScriptUse } from './scriptUse';
import type { Shape } from './shape';

/** Our observations of a page inside a HAR: `log.pages[]._lens` (docs/har-fields.md). */
export interface PageLens {
  readonly conditions?: Conditions;
  /** The screen alone, where the link is not known. */
  readonly screen?: Pick<Conditions, 'screenWidth' | 'screenHeight' | 'density' | 'touch'>;
  readonly paints: PaintTimes;
  readonly otherRuns?: Measured['otherRuns'];
  readonly ttfbMs?: number;
  readonly cls?: number;
  readonly observations?: Observations;
  readonly ledHere?: readonly LedOn[];
  /** Key of the base64 screenshot, for `JsonBytes.raw`. */
  readonly screenshot?: string;
  readonly notes: readonly string[];
}

/** Our observations of one load: `log.entries[]._lens`. */
export interface EntryLens {
  readonly kind?: string;
  readonly priority?: Priority;
  readonly initiator?: Initiator;
  readonly renderBlocking?: boolean;
  readonly error?: string;
  readonly mixedBlocked?: boolean;
  readonly headersUnseen?: boolean;
  readonly otherRuns?: readonly RunTimes[];
  readonly pauses?: readonly Pause[];
  readonly earlyHints?: EarlyHints;
  readonly fromEarlyHints?: boolean;
}

const PRIORITIES: readonly Priority[] = ['VeryHigh', 'High', 'Medium', 'Low', 'VeryLow'];
const INITIATORS: readonly Initiator['type'][] = ['navigation', 'parser', 'script', 'preload', 'redirect', 'other'];
const WORKS: readonly Work['kind'][] = ['script', 'parse', 'style', 'layout', 'paint', 'decode', 'other'];
const LEADS: readonly LedOn['by'][] = ['script', 'refresh', 'form'];
const USES: readonly PictureBox['use'][] = ['img', 'background', 'poster'];

/** Reads the observations of a page, addresses redacted. @throws InputError with the JSON path of what is wrong. */
export function readPageLens(json: JsonBytes, shape: Shape | undefined): PageLens | undefined {
  if (!shape || shape.optionalValue() === undefined) return undefined;
  shape.object('Observations are an object.');
  const notes = shape.at('notes').optionalArray();
  return {
    conditions: readConditions(shape.at('conditions')),
    screen: readScreen(shape.at('screen')),
    paints: readPaintTimes(shape),
    otherRuns:
      shape.at('otherRuns').optionalValue() === undefined
        ? undefined
        : shape.at('otherRuns').optionalArray().slice(0, MOST_RUNS).map(readPaintTimes),
    ttfbMs: shape.at('ttfbMs').optionalCount(),
    cls: shape.at('cls').optionalCount(),
    observations: readObservations(json, shape.at('observations')),
    ledHere: shape.at('ledHere').optionalArray().slice(0, MAX_REDIRECTS).map(readLedOn),
    screenshot: shape.at('screenshot').optionalLongText(),
    notes: notes.map((n) => n.string('A note is a text.')),
  };
}

function readPaintTimes(shape: Shape): PaintTimes {
  return {
    fcpMs: shape.at('fcpMs').optionalCount(),
    lcpMs: shape.at('lcpMs').optionalCount(),
    fcpPaintMs: shape.at('fcpPaintMs').optionalCount(),
    lcpPaintMs: shape.at('lcpPaintMs').optionalCount(),
  };
}

/** Reads the observations of one load. @throws InputError */
export function readEntryLens(shape: Shape): EntryLens {
  if (shape.optionalValue() === undefined) return {};
  shape.object('Observations are an object.');
  return {
    kind: shape.at('kind').optionalString(),
    priority: shape.at('priority').optionalWord(PRIORITIES),
    initiator: readInitiator(shape.at('initiator')),
    renderBlocking: shape.at('renderBlocking').optionalBoolean(),
    error: shape.at('error').optionalString(),
    mixedBlocked: shape.at('mixedBlocked').optionalBoolean(),
    headersUnseen: shape.at('headersUnseen').optionalBoolean(),
    otherRuns: shape.at('otherRuns').optionalValue() === undefined ? undefined : readRuns(shape.at('otherRuns')),
    pauses: readPauses(shape.at('pauses')),
    earlyHints: readEarlyHints(shape.at('earlyHints')),
    fromEarlyHints: shape.at('fromEarlyHints').optionalBoolean(),
  };
}

/** Embedded documents and players whose boxes are read. */
const MOST_EMBEDDED = 1000;

/** Few runs are made; a file that states hundreds is not ours. */
const MOST_RUNS = 20;

function readRuns(shape: Shape): RunTimes[] {
  return shape
    .optionalArray()
    .slice(0, MOST_RUNS)
    .map((run) => ({
      connectMs: run.at('connectMs').optionalCount(),
      tlsMs: run.at('tlsMs').optionalCount(),
      waitMs: run.at('waitMs').optionalCount() ?? 0,
      scriptMs: run.at('scriptMs').optionalCount(),
    }));
}

/** Pauses of one answer that are read. */
const MOST_PAUSES = 20;

/** Those that follow on one another; undefined for none. */
function readPauses(shape: Shape): readonly Pause[] | undefined {
  const out: Pause[] = [];
  for (const pause of shape.optionalArray().slice(0, MOST_PAUSES)) {
    const share = pause.at('share').optionalCount() ?? 1;
    const ms = pause.at('ms').optionalCount() ?? 0;
    const last = out.at(-1) ?? { share: -1, ms: 0 };
    if (share > last.share && share < 1 && ms > last.ms) out.push({ share, ms });
  }
  return out.length > 0 ? out : undefined;
}

/** Link headers of Early Hints that are read. */
const MOST_LINKS = 200;

function readEarlyHints(shape: Shape): EarlyHints | undefined {
  if (shape.optionalValue() === undefined) return undefined;
  const links = shape.at('links').optionalArray().slice(0, MOST_LINKS);
  return { links: links.map((l) => l.string('A header is a text.')), ms: shape.at('ms').optionalCount() ?? 0 };
}

function readConditions(shape: Shape): Conditions | undefined {
  if (shape.optionalValue() === undefined) return undefined;
  const positive = (name: string, least: number) => Math.max(least, shape.at(name).optionalCount() ?? least);
  return {
    ...screenOf(shape),
    rttMs: positive('rttMs', 0),
    downKbps: positive('downKbps', 1),
    upKbps: positive('upKbps', 1),
    cpuFactor: positive('cpuFactor', 0.1),
    stated: shape.at('stated').optionalBoolean() ?? true,
  };
}

function readScreen(shape: Shape): PageLens['screen'] {
  return shape.optionalValue() === undefined ? undefined : screenOf(shape);
}

function screenOf(shape: Shape): NonNullable<PageLens['screen']> {
  const positive = (name: string, least: number) => Math.max(least, shape.at(name).optionalCount() ?? least);
  return {
    screenWidth: positive('screenWidth', 1),
    screenHeight: positive('screenHeight', 1),
    density: positive('density', 0.1),
    touch: shape.at('touch').optionalBoolean() ?? false,
  };
}

function readInitiator(shape: Shape): Initiator | undefined {
  if (shape.optionalValue() === undefined) return undefined;
  const url = shape.at('url').optionalString();
  return {
    type: shape.at('type').optionalWord(INITIATORS) ?? 'other',
    url: url === undefined ? undefined : redactUrl(url),
    line: shape.at('line').optionalCount(),
  };
}

function readObservations(json: JsonBytes, shape: Shape): Observations | undefined {
  if (shape.optionalValue() === undefined) return undefined;
  const html = shape.at('renderedHtml').optionalLongText();
  return {
    largestPaints: shape.at('largestPaints').optionalArray().map(readPaint),
    pictures: shape.at('pictures').optionalArray().map(readPicture),
    ...(shape.at('embedded').optionalValue() !== undefined && {
      embedded: shape
        .at('embedded')
        .optionalArray()
        .slice(0, MOST_EMBEDDED)
        .flatMap((e) => {
          const box = readBox(e.at('box'));
          return box ? [{ path: e.at('path').optionalString() ?? '', box }] : [];
        }),
    }),
    work: shape.at('work').optionalValue() === undefined ? undefined : shape.at('work').optionalArray().map(readWork),
    scripts:
      shape.at('scripts').optionalValue() === undefined
        ? undefined
        : shape.at('scripts').optionalArray().map(readScript),
    renderedHtml: html === undefined ? undefined : json.text(html),
    documentHeight: shape.at('documentHeight').optionalCount(),
    firstScreen:
      shape.at('firstScreen').optionalValue() === undefined
        ? undefined
        : shape
            .at('firstScreen')
            .optionalArray()
            .slice(0, 4000)
            .map((p) => p.string('A path is a text.')),
    certificates: shape.at('certificates').optionalArray().map(readCertificate),
    servers: shape
      .at('servers')
      .optionalArray()
      .map((s) => ({
        origin: s.at('origin').string('An origin is a text.'),
        byUrgency: s.at('byUrgency').optionalBoolean() ?? false,
      })),
    ...(shape.at('handshakes').optionalValue() !== undefined && {
      handshakes: shape
        .at('handshakes')
        .optionalArray()
        .map((h) => ({
          origin: h.at('origin').string('An origin is a text.'),
          connectMs: h.at('connectMs').optionalCount() ?? 0,
          tlsMs: h.at('tlsMs').optionalCount() ?? 0,
        })),
    }),
  };
}

function readLedOn(shape: Shape): LedOn {
  return {
    url: redactUrl(shape.at('url').string('A page has an address.')),
    by: shape.at('by').optionalWord(LEADS) ?? 'script',
    ms: shape.at('ms').optionalCount() ?? 0,
  };
}

function readCertificate(shape: Shape): HostCertificate {
  const text = (name: string) => shape.at(name).optionalString() ?? '';
  return {
    host: text('host'),
    subject: text('subject'),
    issuer: text('issuer'),
    names: shape
      .at('names')
      .optionalArray()
      .map((n) => n.string('A name is a text.')),
    validFrom: text('validFrom'),
    validTo: text('validTo'),
    protocol: text('protocol'),
  };
}

function readPaint(shape: Shape): LargestPaint {
  const url = shape.at('url').optionalString();
  return {
    timeMs: shape.at('timeMs').optionalCount() ?? 0,
    size: shape.at('size').optionalCount() ?? 0,
    path: shape.at('path').optionalString(),
    tag: shape.at('tag').optionalString(),
    url: url ? redactUrl(url) : undefined,
    box: readBox(shape.at('box')),
  };
}

function readPicture(shape: Shape): PictureBox {
  return {
    path: shape.at('path').optionalString() ?? '',
    url: redactUrl(shape.at('url').string('A picture has an address.')),
    use: shape.at('use').optionalWord(USES) ?? 'img',
    box: readBox(shape.at('box')) ?? { x: 0, y: 0, width: 0, height: 0 },
    visible: shape.at('visible').optionalBoolean() ?? false,
    naturalWidth: shape.at('naturalWidth').optionalCount(),
    naturalHeight: shape.at('naturalHeight').optionalCount(),
    lazyAttribute: shape.at('lazyAttribute').optionalBoolean(),
    fit: shape.at('fit').optionalString()?.slice(0, 60),
  };
}

function readWork(shape: Shape): Work {
  const url = shape.at('url').optionalString();
  return {
    kind: shape.at('kind').optionalWord(WORKS) ?? 'other',
    url: url ? redactUrl(url) : undefined,
    line: shape.at('line').optionalCount(),
    startMs: shape.at('startMs').optionalNumber() ?? 0,
    durationMs: shape.at('durationMs').optionalCount() ?? 0,
    untilMs: shape.at('untilMs').optionalNumber(),
    phase: shape.at('phase').optionalWord(['evaluate', 'later'] as const),
    timer: readTimer(shape.at('timer')),
  };
}

function readTimer(shape: Shape): Timer | undefined {
  const setMs = shape.at('setMs').optionalNumber();
  return setMs === undefined ? undefined : { setMs, delayMs: shape.at('delayMs').optionalCount() ?? 0 };
}

function readScript(shape: Shape): ScriptUse {
  const chars = shape.at('chars').optionalCount() ?? 0;
  return {
    url: redactUrl(shape.at('url').string('A script has an address.')),
    chars,
    ranChars: Math.min(chars, shape.at('ranChars').optionalCount() ?? 0),
  };
}

function readBox(shape: Shape): Box | undefined {
  if (shape.optionalValue() === undefined) return undefined;
  return {
    x: shape.at('x').optionalNumber() ?? 0,
    y: shape.at('y').optionalNumber() ?? 0,
    width: shape.at('width').optionalCount() ?? 0,
    height: shape.at('height').optionalCount() ?? 0,
  };
}
