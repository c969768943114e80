import http from 'node:http';
import zlib from 'node:zlib';
import { promisify } from 'node:util';
import { header, type Load, type Pause } from '../../core/capture/capture';
import { originOf } from '../../core/capture/url';
import type { OfferContext } from '../../core/fixes/fix';
import type { LoadGraph } from '../../core/load/graph';
import type { EditedSite } from '../imaging/editedSite';
import type { Answer, ReplayHost } from './messages';

const gzip = promisify(zlib.gzip);
const brotli = promisify(zlib.brotliCompress);

/** What belongs to one connection or to the recording alone, and is made anew. */
const LEFT_OUT = new Set([
  'connection',
  'keep-alive',
  'proxy-connection',
  'transfer-encoding',
  'upgrade',
  'content-length',
  'content-encoding',
  'set-cookie',
  'alt-svc',
  'trailer',
]);

/** What a capture answers, and what of it a replay cannot give as it was. */
export interface ReplaySite {
  readonly answers: readonly Answer[];
  /** In plain words. */
  readonly differs: readonly string[];
}

/** Compression levels, kept by address: an edited file is compressed as its original was. */
export type Levels = Map<string, Level>;
type Level = { readonly coding: 'gzip' | 'br'; readonly level: number };

/**
 * What the servers of a capture answer, as recorded: status, headers, bodies in their content coding at the level that
 * comes nearest to the recorded size, and think times as the load model has them.
 * @param levels filled for what has no edit, and used for what has
 */
export async function recordedAnswers(context: OfferContext, graph: LoadGraph, levels: Levels): Promise<ReplaySite> {
  const { page } = context;
  const differs: string[] = [];
  const fetches = new Map(graph.fetches.filter((f) => f.load >= 0).map((f) => [f.load, f]));
  const answers: Answer[] = [];
  for (const load of page.capture.loads) {
    if (!/^https?:/.test(load.url) || load.mixedBlocked) continue;
    const body = page.bodies.bytes(load);
    if (!body && load.bodyBytes > 0 && !load.redirectTo && load.status < 400) continue;
    const coded = body && body.length > 0 ? await inItsCoding(load, body, levels, differs) : undefined;
    const fetch = fetches.get(load.index);
    answers.push({
      method: load.method,
      url: load.url,
      status: load.status,
      headers: [...headersOf(load), ...(coded?.coding ? ([['content-encoding', coded.coding]] as const) : [])],
      body: coded?.body ?? new Uint8Array(),
      waitMs: fetch?.serverMs ?? Math.max(0, load.timings.waitMs - page.capture.conditions.rttMs),
      ...(load.pauses && body && { pauses: await inCodedBytes(load.pauses, body, levels.get(load.url)) }),
      ...(load.earlyHints && { hints: { ...load.earlyHints, ms: fetch?.hintsMs ?? load.earlyHints.ms } }),
      ...((load.status < 200 || load.status > 599) && { fails: true as const }),
    });
  }
  return { answers, differs };
}

/** The same with the files, headers and think times of fixes. */
export async function editedAnswers(site: ReplaySite, edited: EditedSite, levels: Levels): Promise<ReplaySite> {
  const differs = [...site.differs];
  const out = [...site.answers];
  const at = (url: string) => {
    const i = out.findIndex((a) => a.url === url && a.method === 'GET' && !isRedirect(a));
    return i >= 0 ? i : out.findIndex((a) => a.url === url.replace(/^https:/, 'http:') && !isRedirect(a));
  };
  for (const file of edited.files.values()) {
    const i = at(file.url);
    const was = out[i];
    const level = levels.get(was?.url ?? '') ?? (file.gzip ? { coding: 'gzip' as const, level: 6 } : undefined);
    const body = level ? await compress(file.body, level) : file.body;
    const made: Answer = {
      method: 'GET',
      url: file.url,
      status: 200,
      waitMs: was?.waitMs ?? middleWait(out, file.url),
      ...(was?.hints && { hints: was.hints }),
      ...(was?.pauses && {
        // What is written into a page stands before what its server sends late.
        pauses: isCoded(was) === !!level ? withTail(was.pauses, was.body.length, body.length) : was.pauses,
      }),
      headers: [
        ...(was?.headers ?? [['content-type', typeOf(file.url)] as const])
          .filter(([n]) => n !== 'content-encoding' && n !== 'etag')
          .map(([n, v]) => [n, n === 'content-type' ? inUtf8(v) : v] as const),
        ...(level ? ([['content-encoding', level.coding]] as const) : []),
      ],
      body,
    };
    if (was?.url === file.url) out[i] = made;
    else out.push(made);
  }
  for (const { from, to } of edited.converted) {
    const i = at(from);
    const was = out[i];
    const made = edited.files.get(to);
    if (was && made) {
      const kept = was.headers.filter(([n]) => !['content-type', 'content-encoding', 'etag'].includes(n));
      const answer = { ...was, url: to, headers: [...kept, ['content-type', 'font/woff2'] as const], body: made.body };
      if (at(to) < 0) out.push(answer);
      else out[at(to)] = answer;
    } else {
      if (was && at(to) < 0) out.push({ ...was, url: to });
      differs.push(`${from} was not converted: it is sent as it is, under its new address.`);
    }
  }
  for (const { url, name, value } of edited.headers) {
    const i = at(url);
    const was = out[i];
    if (was) out[i] = { ...was, headers: [...was.headers.filter(([n]) => n !== name), [name, value]] };
  }
  for (const [url, waitMs] of edited.waits) {
    const i = at(url);
    const was = out[i];
    if (was) out[i] = { ...was, waitMs, pauses: undefined };
  }
  return { answers: out, differs };
}

/** The servers that a capture was loaded from, and that the fixes add. */
export function hostsOf(context: OfferContext, graph: LoadGraph, answers: readonly Answer[]): ReplayHost[] {
  const certificates = context.page.capture.observations?.certificates ?? [];
  const byOrigin = new Map<string, ReplayHost>();
  const add = (url: string) => {
    const origin = originOf(url);
    if (!origin || byOrigin.has(origin)) return;
    const { hostname, protocol, port } = new URL(url);
    const own = graph.fetches.filter((f) => f.origin === origin);
    const twin = graph.fetches.find((f) => f.origin.replace(/^https?:/, '') === origin.replace(/^https?:/, ''));
    const secure = protocol === 'https:';
    byOrigin.set(origin, {
      origin,
      host: hostname.replace(/^\[|\]$/g, ''),
      port: Number(port) || (secure ? 443 : 80),
      secure,
      protocol: secure ? ((own[0] ?? twin)?.protocol ?? 'h2') : 'h1',
      order: graph.byUrgency.includes(origin) ? 'urgency' : 'fair',
      setupMs: own[0]?.setupMs ?? 0,
      oldTls: certificates.some((c) => c.host === hostname && /1\.[012]$/.test(c.protocol)),
    });
  };
  for (const a of answers) {
    add(a.url);
    // A browser may ask by the other scheme: a fix or a redirect of its own names it so.
    if (!new URL(a.url).port) add(a.url.startsWith('https:') ? `http:${a.url.slice(6)}` : `https:${a.url.slice(5)}`);
  }
  return [...byOrigin.values()];
}

const isRedirect = (a: Answer) => a.status >= 300 && a.status < 400 && a.status !== 304;

function headersOf(load: Load): (readonly [string, string])[] {
  const own = load.responseHeaders
    .map((h) => [h.name.toLowerCase(), h.value] as const)
    .filter(([name]) => !LEFT_OUT.has(name) && !name.startsWith(':') && (name !== 'location' || !load.redirectTo))
    .filter(([name, value]) => isSendable(name, value));
  return load.redirectTo ? [...own, ['location', load.redirectTo] as const] : own;
}

/** A file may hold what no server could have sent. */
function isSendable(name: string, value: string): boolean {
  try {
    http.validateHeaderName(name);
    http.validateHeaderValue(name, value);
    return true;
  } catch {
    return false;
  }
}

async function inItsCoding(
  load: Load,
  body: Uint8Array,
  levels: Levels,
  differs: string[],
): Promise<{ body: Uint8Array; coding?: string }> {
  const coding = header(load.responseHeaders, 'content-encoding')?.trim().toLowerCase() ?? '';
  if (!/gzip|br|zstd|deflate/.test(coding)) return { body };
  const kept = levels.get(load.url);
  const tries: Level[] = kept
    ? [kept]
    : /br|zstd/.test(coding)
      ? [4, 6, 9, 1, ...(body.length < 400_000 ? [11] : [])].map((level) => ({ coding: 'br', level }))
      : [6, 9, 1].map((level) => ({ coding: 'gzip', level }));
  let best: { level: Level; body: Uint8Array } | undefined;
  const off = (b: Uint8Array) => Math.abs(b.length - load.bodyBytes);
  for (const level of tries) {
    const made = await compress(body, level);
    if (!best || off(made) < off(best.body)) best = { level, body: made };
    if (off(made) <= 0.01 * load.bodyBytes) break;
  }
  if (!best) return { body };
  levels.set(load.url, best.level);
  if (off(best.body) > Math.max(2000, 0.1 * load.bodyBytes))
    differs.push(`${load.url} is sent with ${best.body.length} bytes; recorded were ${load.bodyBytes}.`);
  return { body: best.body, coding: best.level.coding };
}

/** Shares of the compressed body at which a server pauses: those of the plain one are others. */
async function inCodedBytes(pauses: readonly Pause[], body: Uint8Array, level: Level | undefined): Promise<Pause[]> {
  const whole = level && (await compress(body, level)).length;
  return Promise.all(
    pauses.map(async ({ share, ms }) => {
      if (!level || !whole) return { share, ms };
      const before = await compress(body.subarray(0, Math.round(share * body.length)), level);
      return { share: Math.min(1, before.length / whole), ms };
    }),
  );
}

/** The same pauses in a body of another length that ends as the one before it. */
const withTail = (pauses: readonly Pause[], was: number, length: number): Pause[] =>
  pauses.map(({ share, ms }) => ({ share: Math.max(0, 1 - ((1 - share) * was) / Math.max(1, length)), ms }));

const isCoded = (answer: Answer): boolean => answer.headers.some(([name]) => name === 'content-encoding');

const compress = (body: Uint8Array, { coding, level }: Level): Promise<Buffer> =>
  coding === 'gzip'
    ? gzip(body, { level })
    : brotli(body, {
        params: { [zlib.constants.BROTLI_PARAM_QUALITY]: level, [zlib.constants.BROTLI_PARAM_SIZE_HINT]: body.length },
      });

function middleWait(answers: readonly Answer[], url: string): number {
  const waits = answers
    .filter((a) => originOf(a.url) === originOf(url))
    .map((a) => a.waitMs)
    .sort((a, b) => a - b);
  return waits[Math.floor(waits.length / 2)] ?? 0;
}

/** Edited text is UTF-8, whatever it was before. */
const inUtf8 = (type: string) =>
  /^(text\/|application\/(javascript|json|xml|xhtml))/.test(type) ? `${type.split(';')[0]};charset=utf-8` : type;

const typeOf = (url: string) => {
  const { pathname } = new URL(url);
  return /\.css$/.test(pathname)
    ? 'text/css'
    : /\.m?js$/.test(pathname)
      ? 'text/javascript'
      : 'application/octet-stream';
};
