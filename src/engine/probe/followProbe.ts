import { createHash } from 'node:crypto';
import { MAX_REDIRECTS } from '../../core/capture/redirects';
import { resolveUrl } from '../../core/capture/url';
import type { Probe, ProbeHop, ProbedPage } from '../../core/site/entrances';
import { readPageFacts, readRefresh, type PageFacts } from '../../core/site/pageFacts';
import { FetchError, type CrawlClient, type Fetched } from '../crawl/client';
import { retryAfterS } from '../crawl/visit';

/** A page that sends on within so many seconds is a redirect to its visitors. */
const REFRESH_S = 5;

/** What a way brought besides the probe: the HSTS header of each https host on it. */
export interface Followed {
  readonly probe: Probe;
  /** Header by host; undefined where the host sent none. */
  readonly hsts: ReadonlyMap<string, string | undefined>;
  /** A host on the way asked for a pause (RFC 9110, 10.2.3). */
  readonly pause?: { readonly url: string; readonly seconds: number };
}

/**
 * Asks for an address and follows it to where a visitor ends: HTTP redirects, the Refresh header, meta refresh, and
 * scripts as far as recorded.
 * @param clients of the first request, which goes to one address family, and of the others
 * @param byScript where pages lead by script, as recordings have shown
 * @throws the reason of the signal
 */
export async function followProbe(
  clients: { readonly first: CrawlClient; readonly next: CrawlClient },
  from: string,
  family: Probe['family'],
  run: <T>(url: string, task: () => Promise<T>) => Promise<T>,
  signal: AbortSignal,
  byScript: ReadonlyMap<string, string> = new Map(),
): Promise<Followed> {
  const hops: ProbeHop[] = [];
  const hsts = new Map<string, string | undefined>();
  const seen = new Set<string>();
  let pause: Followed['pause'];
  const broken = (fault: Probe['fault'], error: string): Followed => ({
    probe: { from, family, hops, end: null, fault, error },
    hsts,
    pause,
  });
  for (let url = from; ;) {
    if (seen.has(url)) return broken('loop', `redirect loop: ${url} comes again`);
    if (hops.length > MAX_REDIRECTS) return broken('loop', `more than ${MAX_REDIRECTS} redirects`);
    seen.add(url);
    const client = hops.length === 0 ? clients.first : clients.next;
    let answer: Fetched;
    try {
      answer = await run(url, () => client.get(url, 'page', signal));
    } catch (error) {
      if (signal.aborted || !(error instanceof FetchError)) throw error;
      hops.push({ url, status: 0, kind: 'http', permanent: false, ms: 0, location: null });
      return broken(error.kind, error.message);
    }
    const at = new URL(url);
    if (at.protocol === 'https:' && !hsts.has(at.hostname))
      hsts.set(at.hostname, answer.headers['strict-transport-security']);
    const wait =
      answer.status === 429 || answer.status === 503
        ? retryAfterS(answer.headers['retry-after'], Date.now())
        : undefined;
    if (wait !== undefined) pause = { url, seconds: wait };
    const facts = answer.text === undefined ? undefined : readPageFacts(answer.text, url);
    const on = leadsOn(answer, facts, url, byScript);
    hops.push({
      url,
      status: answer.status,
      kind: on?.kind ?? 'http',
      permanent: answer.status === 301 || answer.status === 308,
      ms: Math.round(answer.answerMs),
      location: on?.url ?? null,
    });
    if (!on) {
      // A redirect that names no address leaves the visitor where it stands.
      return {
        probe: { from, family, hops, end: { url, status: answer.status }, page: pageOf(answer, facts, url) },
        hsts,
        pause,
      };
    }
    url = on.url;
  }
}

function leadsOn(
  answer: Fetched,
  facts: PageFacts | undefined,
  url: string,
  byScript: ReadonlyMap<string, string>,
): { url: string; kind: ProbeHop['kind'] } | undefined {
  const location = answer.headers['location'];
  if (answer.status >= 300 && answer.status < 400 && location !== undefined) {
    const next = resolveUrl(location, url);
    return next !== undefined && /^https?:/.test(next) ? { url: next, kind: 'http' } : undefined;
  }
  if (answer.status >= 400) return undefined;
  const header = answer.headers['refresh'];
  const refresh = (header === undefined ? undefined : readRefresh(header, url)) ?? facts?.refresh;
  if (refresh && refresh.seconds <= REFRESH_S && /^https?:/.test(refresh.url)) {
    const next = resolveUrl(refresh.url, url);
    if (next !== undefined && next !== url) return { url: next, kind: 'meta' };
  }
  const led = byScript.get(url);
  return led !== undefined && led !== url ? { url: led, kind: 'script' } : undefined;
}

function pageOf(answer: Fetched, facts: PageFacts | undefined, url: string): ProbedPage | undefined {
  if (answer.status >= 300 || !answer.bytes) return undefined;
  const canonical = facts?.canonical === undefined ? undefined : resolveUrl(facts.canonical, facts.baseUrl);
  return {
    bodyHash: createHash('sha256').update(answer.bytes).digest('hex').slice(0, 32),
    textHash: facts?.textHash ?? '',
    title: facts?.title ?? '',
    ...(canonical !== undefined && canonical !== url && { canonical }),
  };
}
