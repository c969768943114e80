import { MAX_REDIRECTS } from '../../core/capture/redirects';
import { resolveUrl } from '../../core/capture/url';
import type { Hop } from '../../core/site/hop';
import { FetchError, type CrawlClient, type Fetched, type WantedBody } from './client';

/** A way from an address to where it ends. */
export interface FollowedRedirects {
  readonly hops: readonly Hop[];
  /** The last answer; undefined when the way ends in none. */
  readonly end?: { readonly url: string; readonly answer: Fetched };
  /** Why there is no last answer: a request `failed`, or the way has no end that a browser would reach (`endless`). */
  readonly fault?: { readonly kind: 'failed' | 'endless'; readonly url: string; readonly message: string };
}

/**
 * Asks for an address and follows its HTTP redirects (RFC 9110, 15.4) to the end, as far as a browser would. A failed
 * request, a circle and a way that is too long become the fault of the last hop.
 * @param body of the last answer; the ones on the way are not read beyond what tells them apart
 * @throws the reason of the signal
 */
export async function followRedirects(
  client: CrawlClient,
  from: string,
  body: WantedBody,
  signal: AbortSignal,
  most = MAX_REDIRECTS,
): Promise<FollowedRedirects> {
  const hops: Hop[] = [];
  const seen = new Set<string>();
  const ended = (kind: 'failed' | 'endless', url: string, message: string): FollowedRedirects => ({
    hops: [...hops, { url, status: 0, ms: 0, kind: 'http', fault: message }],
    fault: { kind, url, message },
  });
  for (let url = from; ;) {
    if (seen.has(url)) return ended('endless', url, 'leads in a circle');
    if (hops.length > most) return ended('endless', url, `more than ${most} redirects`);
    seen.add(url);
    let answer: Fetched;
    try {
      answer = await client.get(url, body, signal);
    } catch (error) {
      if (signal.aborted || !(error instanceof FetchError)) throw error;
      return ended('failed', url, error.message);
    }
    hops.push({ url, status: answer.status, ms: Math.round(answer.answerMs), kind: 'http' });
    const location = answer.headers['location'];
    if (answer.status < 300 || answer.status >= 400 || location === undefined) return { hops, end: { url, answer } };
    const next = resolveUrl(location, url);
    if (next === undefined || !/^https?:/.test(next))
      return ended('endless', location, 'its redirect names no address');
    url = next;
  }
}
