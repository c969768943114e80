import { decodeHTML } from 'entities';
import { header } from './capture';
import { pageStarts, type NavigationFacts } from './navigations';
import { decodeText, encodeText } from './decodeText';
import type { Capture, Conditions, LedOn, Load, Measured } from './capture';
import { decodeBase64 } from './base64';
import { positive, readEntry } from './harEntry';
import { InputError } from './errors';
import { JsonSyntaxError, parseJsonBytes, type JsonBytes } from './jsonBytes';
import { readPageLens } from './lens';
import { redactContent, redactUrl, Secrets } from './redact';
import { unreadNote } from '../source/readable';
import { Shape } from './shape';
import { fileName } from './url';

/** What one HAR page became: the capture and its bodies by load index. */
export interface ReadCapture {
  readonly capture: Capture;
  readonly bodies: ReadonlyMap<number, Uint8Array>;
  /** Screenshot bytes that came inside the file. */
  readonly screenshot?: Uint8Array;
}

/**
 * Reads a HAR 1.2 file of any origin: with or without bodies, pages, observations. Secrets are cut here, before
 * anything is kept: a value that was found in one place is cut in all others.
 * @param given secrets that are known beforehand
 * @throws InputError naming the JSON path of what is wrong.
 */
export function readHar(input: Uint8Array, fileName = 'file', given: Iterable<string> = []): ReadCapture[] {
  const secrets = new Secrets(given);
  let json: JsonBytes;
  try {
    json = parseJsonBytes(input);
  } catch (error) {
    if (!(error instanceof JsonSyntaxError)) throw error;
    throw new InputError(error.message, fileName, 'Export it again; a HAR is one JSON document.');
  }
  try {
    return readLog(json, secrets);
  } catch (error) {
    if (!(error instanceof JsonSyntaxError)) throw error;
    throw new InputError(error.message, fileName, 'Export it again; a HAR is one JSON document.');
  }
}

function readLog(json: JsonBytes, secrets: Secrets): ReadCapture[] {
  const root = new Shape(json.value, '$', json);
  const log = root.at('log').object('A HAR has a "log" object at the top.');
  const all = log.at('entries').array('A HAR lists its requests in log.entries.');
  // What stands in an address itself was not loaded from anywhere.
  const entries = all.filter((e) => !/^(data|blob|about):/i.test(e.at('request').at('url').optionalString() ?? ''));
  if (entries.length === 0) {
    throw new InputError('The HAR holds no requests.', '$.log.entries', 'Record with the page reloading.');
  }
  const pages = log.at('pages').optionalArray();
  const groups = new Map<string, Shape[]>();
  const firstPage = pages[0]?.at('id').string('A page has an id.') ?? '';
  const known = new Set(pages.map((p) => p.at('id').string('A page has an id.')));
  const began = pages
    .map((p) => ({ id: p.at('id').optionalString() ?? '', at: p.at('startedDateTime').optionalDate() ?? 0 }))
    .sort((a, b) => a.at - b.at);
  for (const entry of entries) {
    const ref = entry.at('pageref').optionalString();
    const named = ref !== undefined && (known.has(ref) || known.size === 0);
    const key = named ? ref : (pageAt(began, entry) ?? firstPage);
    const list = groups.get(key);
    if (list) list.push(entry);
    else groups.set(key, [entry]);
  }
  const out: ReadCapture[] = [];
  for (const [id, list] of groups) {
    const page = pages.find((p) => p.at('id').optionalString() === id);
    const parts = byNavigation(list);
    const read = parts.map((part, i) => {
      try {
        return readPage(json, page, part, { only: parts.length === 1, first: i === 0, secrets });
      } catch (error) {
        // Requests before the first document, or after the last, are no page of their own.
        if (parts.length > 1 && error instanceof InputError && error.what.startsWith('No page document'))
          return undefined;
        throw error;
      }
    });
    out.push(...read.filter((r) => r !== undefined));
  }
  if (out.length === 0)
    throw new InputError(
      'No page document among the requests.',
      '$.log.entries',
      'Record a page load, not single files.',
    );
  return out.map((read) => cutEverywhere(read, secrets));
}

/** Texts whose contents may hold secrets. */
const TEXTS: ReadonlySet<string> = new Set(['document', 'frame', 'style', 'script', 'data', 'manifest']);

/** Cuts what is secret in contents, and known secrets wherever they stand. */
function cutEverywhere(read: ReadCapture, secrets: Secrets): ReadCapture {
  const bodies = new Map(read.bodies);
  const texts = read.capture.loads.filter((l) => TEXTS.has(l.kind) || /^text\/|[/+](json|xml)\b/.test(l.mimeType));
  const decoded = texts.flatMap((load) => {
    const body = bodies.get(load.index);
    if (!body) return [];
    const { text } = decodeText(body, header(load.responseHeaders, 'content-type') ?? load.mimeType);
    return [{ load, text, cut: redactContent(text, secrets, /[/+]json\b/.test(load.mimeType)) }];
  });
  const rendered = read.capture.observations?.renderedHtml;
  const renderedCut = rendered === undefined ? undefined : redactContent(rendered, secrets);
  // What one text told counts for those before it.
  for (const { load, text, cut } of decoded) {
    const out = secrets.cutKnown(cut, 'content');
    if (out !== text) bodies.set(load.index, encodeText(out));
  }
  const { observations, ...plain } = read.capture;
  const capture: Capture = secrets.cutKnownIn(
    { ...plain, observations: observations && { ...observations, renderedHtml: renderedCut } },
    'content',
  );
  const more = [
    secrets.summary(),
    ...decoded.map(({ load, text }) =>
      /^(document|frame|style)$/.test(load.kind) ? unreadNote(fileName(load.url), text) : undefined,
    ),
  ].filter((note) => note !== undefined);
  return { ...read, bodies, capture: { ...capture, notes: [...capture.notes, ...more] } };
}

/** Characters of a title that are kept. */
const MOST_TITLE = 1000;

/** A screenshot; undefined, with a note, for what is none. */
function pictureOf(base64: Uint8Array, notes: string[]): Uint8Array | undefined {
  try {
    return decodeBase64(base64);
  } catch {
    notes.push('The screenshot in the file is not base64: it was left out.');
    return undefined;
  }
}

/** The page that had begun when an entry without a page of its own was asked for. */
function pageAt(pages: readonly { id: string; at: number }[], entry: Shape): string | undefined {
  const at = entry.at('startedDateTime').optionalDate();
  return at === undefined ? undefined : pages.findLast((p) => p.at <= at + 1)?.id;
}

/** Entries of one page by the navigations among them, in the order of time. */
function byNavigation(entries: readonly Shape[]): Shape[][] {
  const sorted = entries
    .map((shape) => ({ shape, startMs: shape.at('startedDateTime').date('Every entry has a start time.') }))
    .sort((a, b) => a.startMs - b.startMs);
  const facts = sorted.map(({ shape, startMs }): NavigationFacts => {
    const request = shape.at('request');
    const response = shape.at('response');
    const headers = request.at('headers').optionalArray();
    const own = headers.find((h) => h.at('name').optionalString()?.toLowerCase() === 'sec-fetch-dest');
    const lens = shape.at('_lens').at('kind').optionalString();
    return {
      url: request.at('url').optionalString() ?? '',
      startMs,
      endMs: startMs + Math.max(0, shape.at('time').optionalNumber() ?? 0),
      method: request.at('method').optionalString() ?? 'GET',
      destination: lens ?? own?.at('value').optionalString()?.toLowerCase(),
      isHtml: /html/.test(response.at('content').at('mimeType').optionalString() ?? ''),
      status: response.at('status').optionalNumber() ?? 0,
      redirectTo: response.at('redirectURL').optionalString() || undefined,
    };
  });
  const starts = pageStarts(facts);
  return starts.map((from, i) => sorted.slice(from, starts[i + 1]).map((e) => e.shape));
}

interface RawEntry {
  readonly shape: Shape;
  readonly startedAt: number;
}

function readPage(
  json: JsonBytes,
  page: Shape | undefined,
  entries: readonly Shape[],
  part: { readonly only: boolean; readonly first: boolean; readonly secrets: Secrets },
): ReadCapture {
  const notes: string[] = [];
  const raw: RawEntry[] = entries
    .map((shape) => ({ shape, startedAt: shape.at('startedDateTime').date('Every entry has a start time.') }))
    .sort((a, b) => a.startedAt - b.startedAt);
  const pageStart = part.first ? page?.at('startedDateTime').optionalDate() : undefined;
  const firstStart = raw[0]?.startedAt ?? 0;
  const origin = pageStart !== undefined && pageStart <= firstStart ? pageStart : firstStart;
  const { secrets } = part;
  const bodies = new Map<number, Uint8Array>();
  const loads: Load[] = [];
  let clamped = 0;
  for (const { shape, startedAt } of raw) {
    const { load, body, negative } = readEntry(json, shape, loads.length, startedAt - origin, secrets);
    if (negative) clamped++;
    loads.push(load);
    if (body) bodies.set(load.index, body);
  }
  if (clamped > 0) notes.push(`${clamped} loads had negative times; they were read as 0.`);
  const documentIndex = findDocument(loads);
  const document = loads[documentIndex];
  if (!document) {
    const where = raw[0]?.shape.path ?? '$.log.entries';
    throw new InputError('No page document among the requests.', where, 'Record a page load, not single files.');
  }
  if (!/^https?:/i.test(document.url))
    throw new InputError(
      `The page is "${document.url.slice(0, 60)}": only pages that came over http or https can be examined.`,
      raw[0]?.shape.path ?? '$.log.entries',
      'Record the page from its web address.',
    );
  const lens = part.only ? readPageLens(json, page?.at('_lens')) : undefined;
  // Of several loads in one page, its timings are those of the first.
  const timings = part.first ? page?.at('pageTimings') : undefined;
  if (!part.only) notes.push('The file holds several page loads in one: they were told apart by their documents.');
  const bodiless = loads.filter((l) => l.status === 200 && !bodies.has(l.index)).length;
  if (!bodies.has(documentIndex)) {
    notes.push('The page source is not in the file: checks on markup and style could not look at it.');
  } else if (bodiless > 0) {
    notes.push(`${bodiless} of ${loads.length} loads came without their contents: these were not looked into.`);
  }
  if (!lens?.observations) {
    notes.push('No observations of the drawn page: hero, drawn sizes and script times are estimates.');
  }
  notes.push(...(lens?.notes ?? []), ...(lens?.ledHere ?? []).map(ledHereNote));
  const measured: Measured = {
    ttfbMs: lens?.ttfbMs ?? firstByteMs(document),
    ...lens?.paints,
    dclMs: positive(timings?.at('onContentLoad').optionalNumber()),
    loadMs: positive(timings?.at('onLoad').optionalNumber()),
    cls: lens?.cls,
    bytes: loads.reduce((sum, l) => sum + l.headerBytes + l.bodyBytes, 0),
    requests: loads.length,
    otherRuns: lens?.otherRuns,
  };
  const conditions = lens?.conditions ?? { ...estimateConditions(loads), ...lens?.screen };
  const stated = page?.at('title').optionalString() ?? '';
  const title = part.only && stated && !/^https?:/i.test(stated) ? stated : (titleIn(document, bodies) ?? stated);
  const first = loads.find((l) => l.kind === 'document') ?? document;
  const capture: Capture = {
    page: document.url,
    requested: first.url,
    title: (/^https?:/i.test(title) ? redactUrl(title, secrets) : title).slice(0, MOST_TITLE),
    device: conditions.screenWidth < 700 ? 'phone' : 'desktop',
    recordedAt: new Date(origin).toISOString(),
    conditions,
    loads,
    documentIndex,
    measured,
    observations: lens?.observations,
    ...(lens?.ledHere?.length && { ledHere: lens.ledHere }),
    notes,
  };
  const shot = lens?.screenshot === undefined ? undefined : pictureOf(json.raw(lens.screenshot), notes);
  return { capture, bodies, screenshot: shot };
}

function ledHereNote({ url, by, ms }: LedOn): string {
  const how = { script: 'a script', refresh: 'a refresh', form: 'a form that a script sent' }[by];
  return `${url} was opened first and led here by ${how} after ${Math.round(ms)} ms: visitors who come that way wait so much longer.`;
}

function firstByteMs(load: Load): number {
  return Math.max(0, load.endMs - load.timings.receiveMs);
}

function findDocument(loads: readonly Load[]): number {
  const isPage = (l: Load) => l.kind === 'document' && !l.redirectTo;
  const proper = loads.findIndex((l) => isPage(l) && l.status > 0);
  if (proper >= 0) return proper;
  const any = loads.findIndex(isPage);
  if (any >= 0) return any;
  return loads.findIndex((l) => /html/.test(l.mimeType) && !l.redirectTo);
}

/** The title that a document states in its source. */
function titleIn(document: Load, bodies: ReadonlyMap<number, Uint8Array>): string | undefined {
  const body = bodies.get(document.index);
  if (!body) return undefined;
  const { text } = decodeText(
    body.subarray(0, 200_000),
    header(document.responseHeaders, 'content-type') ?? 'text/html',
  );
  const written = /<title[^>]*>([^<]{1,500})<\/title/i.exec(text)?.[1]?.replace(/\s+/g, ' ').trim();
  return written ? decodeHTML(written) : undefined;
}

/** Link and device of a recording that does not state them, from its own handshakes and transfers. */
function estimateConditions(loads: readonly Load[]): Conditions {
  const handshakes = loads
    .map((l) => l.timings.connectMs ?? 0)
    .filter((ms) => ms > 0.5)
    .sort((a, b) => a - b);
  const rates = loads
    .filter((l) => l.bodyBytes > 30_000 && l.timings.receiveMs > 1)
    .map((l) => (l.bodyBytes * 8) / l.timings.receiveMs);
  const agent = loads.map((l) => header(l.requestHeaders, 'user-agent')).find(Boolean) ?? '';
  const phone = /Mobile/i.test(agent);
  return {
    screenWidth: phone ? 400 : 1366,
    screenHeight: phone ? 860 : 768,
    density: phone ? 2.5 : 1,
    touch: phone,
    rttMs: handshakes[Math.floor(handshakes.length / 2)] ?? 20,
    downKbps: rates.length > 0 ? Math.max(...rates) : 20_000,
    upKbps: 5_000,
    cpuFactor: 1,
    stated: false,
  };
}
