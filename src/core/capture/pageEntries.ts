import { latin1 } from './base64';
import type { Header } from './capture';
import { InputError } from './errors';
import { readHar, type ReadCapture } from './har';
import { JsonSyntaxError, parseJsonBytes, type JsonBytes } from './jsonBytes';
import { Shape } from './shape';

/** First member of a file that the console snippet saves; its value is the version of the format. */
export const PAGE_ENTRIES_FORMAT = 'keenLensPage';

/** What such a file does not have; the rest of a page's notes says what it lacks. */
const NOTES = [
  'Taken in the console of a browser: headers and contents are known of files of the own site that were in its cache, script times are estimates, and what failed or was refused is not listed.',
];

/** True for a file that the console snippet has saved. */
export function isPageEntries(bytes: Uint8Array): boolean {
  return new RegExp(`^(\\xef\\xbb\\xbf)?\\s*\\{\\s*"${PAGE_ENTRIES_FORMAT}"\\s*:`).test(latin1(bytes.subarray(0, 200)));
}

/**
 * Reads what the console snippet has saved: entries of Navigation, Resource and Paint Timing with what the page shows.
 * @throws InputError naming the JSON path of what is wrong
 */
export function readPageEntries(bytes: Uint8Array, fileName: string): ReadCapture[] {
  let har: object;
  try {
    har = asHar(parseJsonBytes(bytes));
  } catch (error) {
    if (!(error instanceof JsonSyntaxError)) throw error;
    throw new InputError(error.message, fileName, 'Take it again: the file is one JSON document.');
  }
  return readHar(new TextEncoder().encode(JSON.stringify(har)), fileName);
}

/** A HAR 1.2 with our fields (docs/har-fields.md). */
function asHar(json: JsonBytes): object {
  const file = new Shape(json.value, '$', json);
  const origin = file.at('began').date('The file states when the page began.');
  const contents = file.at('contents');
  const contentOf = (url: string) => {
    const own = contents.at(url);
    const text = own.at('text').optionalLongText();
    const headers = own
      .at('headers')
      .optionalArray()
      .map((pair): Header => {
        const [name, value] = pair.array('A header is a name and a value.');
        return { name: name?.optionalString() ?? '', value: value?.optionalString() ?? '' };
      })
      .filter((h) => h.name !== '');
    return { text: text === undefined ? undefined : json.text(text), headers };
  };
  const navigation = file.at('navigation');
  const url = file.at('url').string('The file states the address of its page.');
  const cached: string[] = [];
  const entryOf = (timing: Shape, isDocument: boolean) => {
    const name = isDocument ? url.replace(/#.*$/s, '') : timing.at('name').string('A load has an address.');
    if (!isDocument && fromCache(timing)) cached.push(name);
    return entry(timing, name, isDocument, origin, contentOf(isDocument ? url : name), file);
  };
  const resources = file.at('resources').optionalArray();
  const entries = [entryOf(navigation, true), ...resources.map((r) => entryOf(r, false))];
  const paint = file
    .at('paints')
    .optionalArray()
    .find((p) => p.at('name').optionalString() === 'first-contentful-paint');
  const largest = file.at('largestPaints').optionalArray();
  const shifts = file
    .at('shifts')
    .optionalArray()
    .filter((s) => s.at('hadRecentInput').optionalBoolean() !== true);
  const html = file.at('html').optionalLongText();
  const screen = file.at('screen');
  const number = (shape: Shape) => shape.optionalNumber();
  return {
    log: {
      version: '1.2',
      creator: { name: 'Keen Lens in a console', version: '1' },
      pages: [
        {
          id: 'page_1',
          startedDateTime: iso(origin),
          title: file.at('title').optionalString() ?? '',
          pageTimings: {
            onContentLoad: navigation.at('domContentLoadedEventEnd').optionalNumber() ?? -1,
            onLoad: navigation.at('loadEventStart').optionalNumber() ?? -1,
          },
          _lens: {
            screen: {
              screenWidth: number(screen.at('width')),
              screenHeight: number(screen.at('height')),
              density: number(screen.at('density')),
              touch: screen.at('touch').optionalBoolean(),
            },
            ttfbMs: navigation.at('responseStart').optionalNumber(),
            fcpMs: paint?.at('startTime').optionalNumber(),
            lcpMs: largest.at(-1)?.at('timeMs').optionalNumber(),
            cls: shifts.reduce((n, s) => n + (s.at('value').optionalNumber() ?? 0), 0),
            observations: {
              largestPaints: largest.map((p) => p.optionalValue()),
              pictures: file.at('pictures').optionalValue(),
              renderedHtml: html === undefined ? undefined : json.text(html),
              documentHeight: file.at('documentHeight').optionalNumber(),
              firstScreen: file.at('firstScreen').optionalValue(),
            },
            notes: [...NOTES, ...notesOf(file, cached, largest.length > 0)],
          },
        },
      ],
      entries,
    },
  };
}

/** What the browser or this visit did not tell. */
function notesOf(file: Shape, cached: readonly string[], hasLargest: boolean): string[] {
  const tasks = file.at('longTasks').optionalArray();
  const together = tasks.reduce((n, t) => n + (t.at('duration').optionalNumber() ?? 0), 0);
  return [
    ...(cached.length > 0
      ? [
          `${cached.length} of its files came from the browser's cache: a first visit takes longer. Reload without cache, then take it again.`,
        ]
      : []),
    ...(hasLargest ? [] : ['This browser does not tell the largest paints: the hero is guessed.']),
    ...(tasks.length > 0 ? [`Long tasks of this visit: ${tasks.length}, ${Math.round(together)} ms together.`] : []),
    ...((file.at('navigation').at('redirectCount').optionalNumber() ?? 0) > 0
      ? ['Redirects led to this page: a page is not told through which addresses.']
      : []),
  ];
}

/** Nothing was transferred although there are contents (Resource Timing, 4.3: transferSize). */
const fromCache = (timing: Shape) =>
  timing.at('transferSize').optionalNumber() === 0 && (timing.at('decodedBodySize').optionalNumber() ?? 0) > 0;

/** Initiator types (Resource Timing, 4.2) whose kind of load they tell; of others the ending of the path tells it. */
const KINDS: Readonly<Record<string, string>> = {
  script: 'script',
  img: 'image',
  image: 'image',
  input: 'image',
  iframe: 'frame',
  frame: 'frame',
  video: 'media',
  audio: 'media',
  track: 'media',
  xmlhttprequest: 'data',
  fetch: 'data',
  beacon: 'data',
};

function entry(
  timing: Shape,
  url: string,
  isDocument: boolean,
  origin: number,
  content: { readonly text?: string; readonly headers: readonly Header[] },
  file: Shape,
): object {
  const n = (name: string) => Math.max(0, timing.at(name).optionalNumber() ?? 0);
  const start = n('startTime');
  const end = Math.max(start, n('responseEnd'));
  // Of other sites that do not allow it all of these are 0 (Resource Timing, 4.5: Timing-Allow-Origin).
  const told = n('responseStart') > 0;
  const connected = told && n('connectEnd') > n('connectStart');
  const secure = n('secureConnectionStart');
  const size = n('decodedBodySize') || (content.text?.length ?? 0);
  const encoded = n('encodedBodySize');
  const transferred = n('transferSize');
  const initiator = timing.at('initiatorType').optionalString() ?? '';
  const mimeType = content.headers.find((h) => h.name.toLowerCase() === 'content-type')?.value ?? '';
  const isStyle = initiator === 'link' && timing.at('renderBlockingStatus').optionalString() === 'blocking';
  const kind = isDocument ? 'document' : (KINDS[initiator] ?? (isStyle ? 'style' : undefined));
  const serverTiming = timing
    .at('serverTiming')
    .optionalArray()
    .map((s) => `${s.at('name').optionalString() ?? ''};dur=${s.at('duration').optionalNumber() ?? 0}`);
  const headers: Header[] = [...content.headers];
  const has = (name: string) => headers.some((h) => h.name.toLowerCase() === name);
  if (encoded > 0 && !has('content-length')) headers.push({ name: 'content-length', value: String(encoded) });
  // Scripts are not shown this header (Fetch, 4.6): that it was there the sizes tell.
  if (encoded > 0 && encoded < size * 0.9 && !has('content-encoding') && isText(kind, mimeType, url))
    headers.push({ name: 'content-encoding', value: timing.at('contentEncoding').optionalString() || 'gzip' });
  if (serverTiming.length > 0 && !has('server-timing'))
    headers.push({ name: 'server-timing', value: serverTiming.join(', ') });
  return {
    pageref: 'page_1',
    startedDateTime: iso(origin + start),
    time: end - start,
    request: {
      method: 'GET',
      url,
      httpVersion: '',
      headers: [{ name: 'user-agent', value: file.at('userAgent').optionalString() ?? '' }],
      headersSize: -1,
      bodySize: 0,
    },
    response: {
      status: timing.at('responseStatus').optionalNumber() || 200,
      httpVersion: timing.at('nextHopProtocol').optionalString() ?? '',
      headers,
      content: {
        size,
        mimeType: mimeType || typeOf(kind, url),
        ...(content.text !== undefined && { text: content.text }),
      },
      redirectURL: '',
      headersSize: transferred > encoded ? transferred - encoded : -1,
      bodySize: encoded > 0 ? encoded : -1,
    },
    timings: {
      blocked: told
        ? Math.max(0, (connected ? n('domainLookupStart') || n('connectStart') : n('requestStart')) - start)
        : 0,
      dns: connected ? n('domainLookupEnd') - n('domainLookupStart') : -1,
      connect: connected ? n('connectEnd') - n('connectStart') : -1,
      ssl: connected && secure > 0 ? n('connectEnd') - secure : -1,
      send: 0,
      wait: told ? Math.max(0, n('responseStart') - n('requestStart')) : end - start,
      receive: told ? Math.max(0, end - n('responseStart')) : 0,
    },
    _lens: {
      kind,
      headersUnseen: content.headers.length === 0,
      renderBlocking: renderBlockingOf(timing),
      initiator: {
        type: /^(xmlhttprequest|fetch|beacon)$/.test(initiator) ? 'script' : isDocument ? 'navigation' : 'other',
      },
    },
  };
}

function renderBlockingOf(timing: Shape): boolean | undefined {
  const status = timing.at('renderBlockingStatus').optionalString();
  return status === undefined ? undefined : status === 'blocking';
}

const isText = (kind: string | undefined, mimeType: string, url: string) =>
  /^(document|frame|style|script|data)$/.test(kind ?? '') ||
  /text|javascript|json|xml/.test(mimeType) ||
  /\.(css|m?js|json|svg|xml|html?)([?#]|$)/i.test(url);

/** A type for what came without headers; empty where the ending of the path tells the kind. */
function typeOf(kind: string | undefined, url: string): string {
  if (kind === 'document' || kind === 'frame') return 'text/html';
  if (kind === 'style') return 'text/css';
  if (kind === 'script') return 'text/javascript';
  const picture = /\.(png|jpe?g|gif|webp|avif|svg)([?#]|$)/i.exec(url)?.[1]?.toLowerCase();
  if (!picture) return '';
  return `image/${picture === 'svg' ? 'svg+xml' : picture.replace('jpg', 'jpeg')}`;
}

/** A time; the first day of the web's own time for one that no calendar has. */
function iso(ms: number): string {
  return new Date(Number.isFinite(ms) && ms >= 0 && ms < 4e12 ? ms : 0).toISOString();
}
